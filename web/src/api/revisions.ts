/** Which revision of each study this tab shows, as its answers tell, so that an edit of its own is not taken for one of
 * somebody else. */
const shown = new Map<number, number>()
const ofStudy = /\/studies\/(\d+)/
/** How many changes of our own are under way. */
let under = 0
export const isChanging = () => under > 0
export const begins = () => under++
export const ends = () => under--

export function heard(answer: Response, url: string): void {
  const study = Number(ofStudy.exec(url)?.[1])
  const told = (header: string) => Number(answer.headers.get(header))
  if (!study || !answer.ok) return
  const seen = told('Study-Revision')
  if (seen && !shown.has(study)) shown.set(study, seen)
  // What a change of our own has made is the next one, or somebody else's came in between.
  const made = told('Study-Made')
  if (made && shown.get(study) === made - 1) shown.set(study, made)
}

/** Whether what is shown of a study is older than this revision; from then on it is taken for shown. */
export function isOlder(study: number, revision: number): boolean {
  const older = (shown.get(study) ?? revision) < revision
  if (older) shown.set(study, revision)
  return older
}

export const shownStudies = () => [...shown.keys()]
