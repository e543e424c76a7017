import { computed } from 'vue'

import { api } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import { useLoad } from '@/composables/useLoad'

import type { BulkEdit, CodebookQuestion, QuestionEdit } from '@/api/client'
import type { Ref } from 'vue'

/** A study's codebook with every way to change it; each change loads what came of it. */
export function useCodebook(study: Ref<number>) {
  const { data, loading, error, run } = useLoad(() => [study.value, 'codebook'], (signal) => api.codebook(study.value, signal), true)
  const { error: failed, attempt } = useAttempt(run)

  const byId = computed(() => new Map((data.value?.questions ?? []).map((q) => [q.id, q])))
  const edit = (q: CodebookQuestion, change: QuestionEdit) => attempt(() => api.editQuestion(study.value, q.id, q.version, change))
  const bulk = (ids: number[], change: Omit<BulkEdit, 'questions'>) =>
    attempt(() =>
      api.editMany(study.value, {
        ...change,
        questions: ids.flatMap((id) => byId.value.get(id) ?? []).map(({ id, version }) => ({ id, version })),
      }),
    )

  return { data, loading, error, failed, run, attempt, edit, bulk, byId }
}
