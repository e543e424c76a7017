/** What a request that can be asked again without harm was refused with. */
export interface Refused {
  status: number
  isGone: boolean
}

const refused = (e: unknown): e is Refused => e instanceof Error && 'status' in e && 'isGone' in e

/** No answer, or that of a server or proxy that will soon be there again. */
const passing = [0, 502, 503, 504]

/** Asks again what has one outcome however often it is asked: the process that was at it may have ended, and another goes
 * on. What is told in the end is the first refusal where a later one only says that nothing is waiting any more. */
export async function again<T>(ask: () => Promise<T>, signal: AbortSignal, pauses = [500, 1000, 2000, 4000, 4000, 4000, 4000]): Promise<T> {
  let first: Refused | undefined
  for (const pause of [...pauses, null]) {
    try {
      return await ask()
    } catch (e) {
      if (!refused(e)) throw e
      if (first && e.isGone) throw first as unknown as Error
      if (pause === null || signal.aborted || !passing.includes(e.status)) throw e
      first ??= e
      await new Promise((go) => setTimeout(go, pause))
    }
  }
  throw first as unknown as Error
}
