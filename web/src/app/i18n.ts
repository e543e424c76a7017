import { createI18n } from 'vue-i18n'

import { ui } from '@locales/en.json'

/** The labels of the interface; sentences and notes come ready from the server. */
export const words = createI18n({ legacy: false, locale: 'en', messages: { en: ui } })
