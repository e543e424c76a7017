/** An entry of a menu: what it says and what pressing it does. `chosen` is set where the menu
 * chooses one of several. */
export interface MenuEntry {
  key: string
  title: string
  act: () => void
  chosen?: boolean
  test?: string | undefined
}
