import { computed, ref } from 'vue'

import type { Analysis, Question } from '@/api/client'
import type { Ref } from 'vue'

/** The claims whose shares can stand as ticks in the tally: those that have been run and
 * are about those whom the tally counts. The last one stands there unless another is chosen. */
export function useTicks(question: () => Question, among: Readonly<Ref<string>>) {
  const references = computed(() => question().analyses.filter((a) => a.document?.ticks && (a.spec.subgroup ?? '') === among.value))
  const chosen = ref<number | null>(null)
  const reference = computed<Analysis | null>(() => references.value.find((c) => c.id === chosen.value) ?? references.value.at(-1) ?? null)
  return { references, chosen, reference }
}
