/** Natural order: digit runs compare as numbers, so that 2 comes before 10 whatever the padding. */
const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })

/** Order of two names for `sort`: below 0 where `a` comes first. */
export function naturally(a: string, b: string): number {
  return collator.compare(a, b) || (a < b ? -1 : a > b ? 1 : 0)
}

/** "3", "3 to 7", "3, 5 and 9 to 12": a list of numbers as a person would say it. */
export function sayNumbers(numbers: readonly number[], most = 6): string {
  const runs: string[] = []
  for (let i = 0; i < numbers.length;) {
    let j = i
    while (j + 1 < numbers.length && numbers[j + 1] === numbers[j]! + 1) j++
    runs.push(
      j === i ? `${numbers[i]}` : j === i + 1 ? `${numbers[i]}, ${numbers[j]}` : `${numbers[i]} to ${numbers[j]}`
    )
    i = j + 1
  }
  if (runs.length > most) return `${runs.slice(0, most).join(', ')} and ${runs.length - most} more places`
  return runs.length > 1 ? `${runs.slice(0, -1).join(', ')} and ${runs.at(-1)}` : (runs[0] ?? '')
}
