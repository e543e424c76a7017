import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { computed, ref, watchEffect } from 'vue'

import { colours } from './colours'

import type { ThemeName } from './colours'

const kept = useLocalStorage<string>('theme', '', { writeDefaults: false })
const wanted = usePreferredDark()
const chosen = computed<ThemeName>(() => (kept.value === 'paper' || kept.value === 'night' ? kept.value : wanted.value ? 'night' : 'paper'))
const printing = ref(false)
window.addEventListener('beforeprint', () => (printing.value = true))
window.addEventListener('afterprint', () => (printing.value = false))

/** The theme that is on; what is printed is printed on paper. */
export const theme = computed<ThemeName>(() => (printing.value ? 'paper' : chosen.value))

export function switchTheme(): void {
  kept.value = chosen.value === 'night' ? 'paper' : 'night'
}

/** Every colour is a variable of the style sheet by its own name. */
watchEffect(() => {
  const variables = Object.entries(colours[theme.value]).map(([name, colour]) => `--${name}:${colour}`)
  document.documentElement.style.cssText = `color-scheme:${theme.value === 'night' ? 'dark' : 'light'};${variables.join(';')}`
})
