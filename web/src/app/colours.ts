/** Every colour has one meaning: teal for what can be pressed and for the observed, marigold
 * for reference and claimed shares, rust for more than expected, steel blue for fewer. The
 * component library, the style sheet and the charts take them from here. */
export const colours = {
  paper: {
    paper: '#faf6ee',
    sheet: '#fffdf8',
    ink: '#20262b',
    soft: '#5f6058',
    rule: '#ddd4c2',
    hair: '#ebe4d6',
    teal: '#0c5a5e',
    'on-teal': '#ffffff',
    tealwash: '#e3eeec',
    bar: '#8fb3b0',
    mari: '#c9821a',
    'mari-text': '#8a5a10',
    mariwash: '#fbefd9',
    rust: '#a8442a',
    rustwash: '#e8c9be',
    steel: '#2b6291',
  },
  night: {
    paper: '#16191b',
    sheet: '#1f2326',
    ink: '#e9e4d8',
    soft: '#a9a698',
    rule: '#3d4143',
    hair: '#2b2f31',
    teal: '#77c2bc',
    'on-teal': '#10201f',
    tealwash: '#1d3534',
    bar: '#3f6b68',
    mari: '#e0a64a',
    'mari-text': '#e6b264',
    mariwash: '#3a2f1a',
    rust: '#e58f70',
    rustwash: '#5b2f22',
    steel: '#86b6e0',
  },
}

export type ThemeName = keyof typeof colours
