import { ref, shallowRef } from 'vue'

/** What was typed at the intake, kept while a look at it is refused or given up, so that
 * coming back finds it as it was. */
export const typed = {
  way: ref<'' | 'paste' | 'grid' | 'two'>(''),
  pasted: ref(''),
  first: ref(''),
  second: ref(''),
  means: ref<'asked' | 'no'>('asked'),
  form: ref<'' | 'list' | 'crossing'>(''),
  cells: shallowRef<string[][]>([]),
}

/** Forgets what was typed, once it is a study. */
export function forgetTyped(): void {
  typed.way.value = ''
  typed.pasted.value = typed.first.value = typed.second.value = ''
  typed.form.value = ''
  typed.cells.value = []
}
