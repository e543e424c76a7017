/** Which revision of each study this tab shows, as its answers tell, so that an edit of its own is not taken for one of
 * somebody else. */
const shown = new Map<number, number>()
const ofStudy = /\/studies\/(\d+)/
/** How many changes of our own are under way. */
let under = 0
export const isChanging = () => under > 0
export const begins = () => under++
export const ends = () => under--

export function heard(answer: Response, url: string, changes: boolean): void {
  const study = Number(ofStudy.exec(url)?.[1])
  const revision = Number(answer.headers.get('Study-Revision'))
  if (!study || !revision || !answer.ok) return
  // That of a change of our own is the next one, or somebody else's came in between.
  if (!shown.has(study) || (changes && shown.get(study) === revision - 1)) shown.set(study, revision)
}

/** Whether what is shown of a study is older than this revision; from then on it is taken for shown. */
export function isOlder(study: number, revision: number): boolean {
  const older = (shown.get(study) ?? revision) < revision
  if (older) shown.set(study, revision)
  return older
}
