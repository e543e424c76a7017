import { onMounted, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { unfold, unfoldedOf } from '@/composables/useUnfolded'

import type { Foldable } from '@/composables/useUnfolded'
import type { Ref } from 'vue'

const isFoldable = (text: string): text is Foldable => /^[aq]\d{1,18}$/.test(text)

/** What is unfolded stands in the address once it changes, so that a link shows the same; what a link
 * unfolds joins what was unfolded here. */
export function useOpen(study: Ref<number>) {
  const route = useRoute()
  const router = useRouter()
  onMounted(() => {
    if (typeof route.query.open === 'string') for (const one of route.query.open.split('.')) if (isFoldable(one)) unfold(study.value, one)
    watch(() => unfoldedOf(study.value).value, (open) =>
      void router.replace({ query: { ...route.query, open: open?.length ? open.join('.') : undefined }, hash: route.hash }))
  })
}
