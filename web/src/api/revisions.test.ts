import { describe, expect, it } from 'vitest'

import { heard, isOlder } from './revisions'

/** An answer about a study, with the revision that it is of, and the one that a change has made. */
const answer = (told: { seen?: number; made?: number }, status = 200) =>
  new Response(null, {
    status,
    headers: { ...(told.seen && { 'Study-Revision': String(told.seen) }), ...(told.made && { 'Study-Made': String(told.made) }) },
  })
let next = 100
/** A study that a page shows at revision 5. */
function shown(): { id: number; url: string } {
  const id = next++
  const url = `http://localhost/api/v1/studies/${id}/topline`
  heard(answer({ seen: 5 }), url)
  return { id, url }
}

describe('which edits are those of others', () => {
  it('takes the next revision after a change of its own for its own', () => {
    const { id, url } = shown()
    heard(answer({ seen: 5, made: 6 }), url)
    expect(isOlder(id, 6)).toBe(false)
    expect(isOlder(id, 7)).toBe(true)
    expect(isOlder(id, 7)).toBe(false)
  })
  it('does not take one for its own before which somebody else came', () => {
    const { id, url } = shown()
    heard(answer({ seen: 6, made: 7 }), url)
    expect(isOlder(id, 7)).toBe(true)
  })
  it('does not believe a later answer of one place to be that of all', () => {
    const { id, url } = shown()
    heard(answer({ seen: 9 }), url)
    expect(isOlder(id, 9)).toBe(true)
  })
  it('is not led on by what only asks, or by what was refused', () => {
    const { id, url } = shown()
    heard(answer({ seen: 6 }), url) // a count of a condition, sent as POST
    heard(answer({ seen: 5, made: 6 }, 412), url)
    expect(isOlder(id, 6)).toBe(true)
  })
  it('knows nothing of a study that is not shown', () => {
    expect(isOlder(9999, 3)).toBe(false)
    heard(answer({ seen: 5 }), 'http://localhost/api/v1/methods')
    expect(isOlder(9999, 4)).toBe(false)
  })
})
