import { colours } from '@/app/colours'

/** The colours of the charts, one meaning each, as in the page's own theme. */
export interface Palette {
  ink: string
  soft: string
  rule: string
  observed: string
  bar: string
  sheet: string
  reference: string
  referenceText: string
  tail: string
  rejection: string
}

function palette(c: (typeof colours)[keyof typeof colours]): Palette {
  return {
    ink: c.ink,
    soft: c.soft,
    rule: c.rule,
    observed: c.teal,
    bar: c.bar,
    sheet: c.paper,
    reference: c.mari,
    referenceText: c['mari-text'],
    tail: c.mariwash,
    rejection: c.rustwash,
  }
}

export const paletteOf = (theme: string): Palette => palette(theme === 'night' ? colours.night : colours.paper)
