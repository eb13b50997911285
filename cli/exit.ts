/** How a command ends. */
export const EXIT = { done: 0, wrongCall: 2, unreadable: 3, proofBroken: 4, impossible: 5 } as const
