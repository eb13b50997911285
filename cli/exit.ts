/** How a command ends; 130 is what shells call a program that was stopped by hand. */
import { PourError } from '../core/base/errors'

export const EXIT = {
  done: 0,
  fault: 1,
  wrongCall: 2,
  unreadable: 3,
  proofBroken: 4,
  impossible: 5,
  stopped: 130
} as const

/** The code for what a command could not do. */
export function exitFor(error: unknown): number {
  if (!(error instanceof PourError)) return EXIT.fault
  return {
    unreadable: EXIT.unreadable,
    impossible: EXIT.impossible,
    'wrong-call': EXIT.wrongCall,
    'no-room': EXIT.impossible,
    unreachable: EXIT.unreadable
  }[error.kind]
}
