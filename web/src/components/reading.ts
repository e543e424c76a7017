import { computed, inject } from 'vue'

import type { InjectionKey, Ref } from 'vue'

export const readingKey: InjectionKey<Readonly<Ref<boolean>>> = Symbol('reading')

/** Whether the page is only read: then nothing on it is there to be pressed. */
export const useIsReading = () => inject(readingKey, () => computed(() => false), true)
