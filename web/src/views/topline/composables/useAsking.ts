import { computed, ref } from 'vue'

import { presetKey, presets } from '@/app/presets'
import { hasBlanks, opensForm, useMethods } from '@/composables/useMethods'

import { keptLook } from './useLook'

import type { Method, Outlined, Question, Spec } from '@/api/client'

interface Asked {
  question: Question
  questions: Outlined[]
  study: { id: number }
  view: { of: number | null }
}

/** What is about to be asked of a question: with which method, and of which further ones.
 * `ask` keeps a spec and says whether that could be done. */
export function useAsking(props: Asked, ask: (spec: Spec, runNow: boolean) => Promise<boolean>) {
  const { byName } = useMethods()
  /** The method of which the form is open. */
  const asking = ref<string | null>(null)
  /** The further questions of what is asked, as far as they are chosen. */
  const others = ref<string[]>([])
  /** The answers that are pressed in the tally; null where none is asked for. */
  const picked = ref<string[] | null>(null)

  /** The other questions with the same shared list. */
  const battery = computed(() => {
    const mine = props.questions.find((q) => q.id === props.question.id)?.listId ?? null
    return props.questions.filter((q) => q.id !== props.question.id && q.listId !== null && q.listId === mine)
  })
  const methods = computed(() =>
    props.question.asks.flatMap((name) => byName.value.get(name) ?? []).filter((m) => m.more !== 'battery' || battery.value.length > 0),
  )
  const form = computed(() => (asking.value === null ? undefined : byName.value.get(asking.value)))
  const needed = computed(() => (form.value ? form.value.questions.length + (form.value.more === 'others' ? 1 : 0) : 0))
  const seeksOther = computed(() => needed.value > 1 + others.value.length)
  const among = computed(() => (props.view.of === null ? '' : String(props.view.of)))

  /** What is no claim is described at once; it can be tested where it then stands. */
  function open(method: Method) {
    const again = asking.value === method.name
    close()
    if (again) return
    const preset = presets.get(presetKey(props.question.id, method.name))
    if (preset) {
      asking.value = method.name
      others.value = preset.others
      return
    }
    if (opensForm(method)) asking.value = method.name
    else void describe(method, method.more ? battery.value.map((q) => String(q.id)) : [])
  }
  function close() {
    asking.value = null
    others.value = []
    picked.value = null
  }
  function withOthers(ids: number[]) {
    const method = form.value
    others.value = [...others.value, ...ids.map(String)]
    if (method && method.mode !== 'tests' && !hasBlanks(method) && !seeksOther.value) void describe(method, others.value)
  }
  async function describe(method: Method, further: string[]) {
    const spec = {
      method: method.name,
      version: method.version,
      questions: [String(props.question.id), ...further],
      settings: { ...method.settings, ...keptLook(props.study.id, method.name) },
      ...(among.value ? { subgroup: among.value } : {}),
    }
    if (await ask(spec, false)) close()
  }
  async function state(spec: Spec, runNow: boolean) {
    if (await ask(spec, runNow)) close()
  }

  const needsPicking = (m: Method | undefined) => m?.inputs.some((i) => i.kind === 'categories') ?? false
  function pick(code: string) {
    const now = picked.value ?? []
    picked.value = now.includes(code) ? now.filter((c) => c !== code) : [...now, code]
  }
  return { byName, asking, others, picked, methods, form, seeksOther, among, open, close, withOthers, state, needsPicking, pick }
}
