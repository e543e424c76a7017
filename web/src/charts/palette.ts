/** The colours of the charts, one meaning each, as in the page's own theme. */
export interface Palette {
  ink: string
  soft: string
  rule: string
  observed: string
  reference: string
  referenceText: string
  tail: string
  rejection: string
}

const paper: Palette = { ink: '#20262b', soft: '#5f6058', rule: '#ddd4c2', observed: '#0c5a5e', reference: '#c9821a', referenceText: '#8a5a10', tail: '#fbefd9', rejection: '#e8c9be' }
const night: Palette = { ink: '#e9e4d8', soft: '#a9a698', rule: '#3d4143', observed: '#77c2bc', reference: '#e0a64a', referenceText: '#e6b264', tail: '#3a2f1a', rejection: '#5b2f22' }

export const paletteOf = (theme: string): Palette => (theme === 'night' ? night : paper)
