/** Does some work when the browser has nothing else to do, and soon in any case. */
export function whenIdle(work: () => void): void {
  if ('requestIdleCallback' in window) requestIdleCallback(work, { timeout: 300 })
  else setTimeout(work, 30)
}
