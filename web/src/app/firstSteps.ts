import { kept } from './kept'

/** What somebody does who is here for the first time. */
export const steps = ['compare', 'cross', 'report'] as const
export type Step = (typeof steps)[number]

const done = kept<string[]>('first-steps')
/** Put away for good, or all done. */
const away = 'away'

export const isDone = (step: Step) => done.value?.includes(step) ?? false
export const areShown = () => !done.value?.includes(away) && !steps.every(isDone)
export const putAway = () => void (done.value = [away])
export function did(step: string) {
  if (areShown() && (steps as readonly string[]).includes(step) && !done.value?.includes(step)) done.value = [...(done.value ?? []), step]
}
