declare module 'texts:*' {
  import type { LocaleMessage } from 'vue-i18n'

  const texts: LocaleMessage
  export default texts
}
