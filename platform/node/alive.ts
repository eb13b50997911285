/** Whether a process of this number runs. */
export function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    // a process of somebody else runs as well
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
}
