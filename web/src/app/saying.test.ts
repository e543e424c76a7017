import { expect, it } from 'vitest'

import { pluralsOf } from './saying'

/** The same forms as the server takes for the same numbers. */
it.each([
  ['en', '0', ['=0 no file', 'one file', '# files'], 'no file'],
  ['en', '1', ['=0 no file', 'one file', '# files'], 'one file'],
  ['en', '1,234', ['one file', '# files'], '1,234 files'],
  ['en', '', ['one', 'other'], 'other'],
  ['pl', '22', ['# plik', '# pliki', '# plików', '# pliku'], '22 pliki'],
  ['pl', '12', ['# plik', '# pliki', '# plików', '# pliku'], '12 plików'],
  ['ja', '1', ['# x'], '1 x'],
])('%s %s', (language, n, forms, wanted) => expect(pluralsOf(language)(n, forms)).toBe(wanted))
