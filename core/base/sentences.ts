/** Sentences told one after the other: each once, and no more than anybody reads. */
export function fewOf(sentences: readonly string[], most: number): string {
  const each = [...new Set(sentences)]
  const more = each.length - most
  return [...each.slice(0, most), ...(more > 0 ? [`And ${more} more.`] : [])].join(' ')
}
