/** An entry of a menu: what it says and what pressing it does. `chosen` is set where the menu
 * chooses one of several. */
export interface MenuEntry {
  key: string
  title: string
  act: () => void
  chosen?: boolean
  test?: string | undefined
}

/** What one wants who does something with a question, in the order in which it is offered. */
export const purposes = ['look', 'compare', 'cross', 'change'] as const
export type Purpose = (typeof purposes)[number]

/** Something that can be done with a question. */
export interface Act extends MenuEntry {
  purpose: Purpose
  /** Below it stand one line of what it is for, and the words by which the trade knows it. */
  texts: string
  /** The key that does it while the question has the focus; '' for none. */
  letter: string
  /** How many of them stand beside the question comes from this: 0 for those that always do, 1 for those
   * that come with the pointer, 2 for those of the menu alone. */
  rank: 0 | 1 | 2
  /** It is open below the question. */
  open?: boolean
  /** What opens nothing has no such state. */
  opens: boolean
}
