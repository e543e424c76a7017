import { nextTick, onMounted, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { kept } from '@/app/kept'

import type { Analysis, Change } from '@/api/client'

/** Chosen once and kept: how crossings are read, which figures stand beside them. The next one
 * of the same method in the study begins so. */
const members = ['reading', 'show', 'missing', 'order', 'height', 'parts']
const lookAt = (study: number, method: string) => kept<Record<string, unknown>>(`look/${study}/${method}`)
export const keptLook = (study: number, method: string): Record<string, unknown> => lookAt(study, method).value ?? {}
function keepLook(study: number, method: string, look: Record<string, unknown>) {
  lookAt(study, method).value = Object.fromEntries(members.filter((k) => k in look).map((k) => [k, look[k]]))
}

/** The address names the analysis that was looked at last and the way it was looked at, so
 * that a link or Back shows exactly that: the id and, after a tilde, the settings that only
 * say how it is shown. */
export function useLook(study: number, analysis: () => Analysis, change: (c: Change) => void) {
  const route = useRoute()
  const router = useRouter()
  const name = (look: Record<string, unknown>) => `${analysis().id}~${JSON.stringify(look)}`
  const named = () => {
    const text = typeof route.query.look === 'string' ? route.query.look : ''
    if (!text.startsWith(`${analysis().id}~`)) return null
    try {
      return JSON.parse(text.slice(text.indexOf('~') + 1)) as Record<string, unknown>
    } catch {
      return null
    }
  }

  /** The way to look was changed here: Back leads to the one before. */
  function looked(before: Record<string, unknown>, now: Record<string, unknown>) {
    if (JSON.stringify(before) === JSON.stringify(now) || JSON.stringify(named()) === JSON.stringify(now)) return
    keepLook(study, analysis().spec.method, now)
    const hash = `#a${analysis().id}`
    const go = () => router.push({ query: { ...route.query, look: name(now) }, hash })
    if (named()) void go()
    else {
      passing = true // the way that was left is written down on the way to the next one
      void router.replace({ query: { ...route.query, look: name(before) }, hash: route.hash }).then(go).finally(() => (passing = false))
    }
  }

  let passing = false
  function follow() {
    const wanted = passing ? null : named()
    const now = analysis().look
    if (!wanted || JSON.stringify(wanted) === JSON.stringify(now)) return
    const gone = Object.fromEntries(Object.keys(now).map((member) => [member, null]))
    change({ ...gone, ...wanted })
  }
  onMounted(() => void nextTick(follow))
  watch(() => route.query.look, follow)
  return { looked }
}
