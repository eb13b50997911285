/** Deliveries that would be called the same: where they lie together, one would take the place of the other. */

export interface NamedDelivery {
  cell: string
  /** As it is handed out. */
  fileName: string
}

/**
 * Cells by the name they share, of names that more than one has; upper and lower case are one, as some disks take them.
 */
export function clashesOf(deliveries: readonly NamedDelivery[]): Map<string, NamedDelivery[]> {
  const byName = new Map<string, NamedDelivery[]>()
  for (const each of deliveries) {
    const key = each.fileName.toLowerCase()
    byName.set(key, [...(byName.get(key) ?? []), each])
  }
  return new Map([...byName.values()].filter(list => list.length > 1).map(list => [list[0]!.fileName, list]))
}
