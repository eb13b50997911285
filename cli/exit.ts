/** How a command ends; 130 is what shells call a program that was stopped by hand. */
export const EXIT = {
  done: 0,
  fault: 1,
  wrongCall: 2,
  unreadable: 3,
  proofBroken: 4,
  impossible: 5,
  stopped: 130
} as const
