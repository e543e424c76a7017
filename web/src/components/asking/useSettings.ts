import { computed, ref } from 'vue'

import type { Input, Method } from '@/api/client'

type Settings = Record<string, unknown>
type When = NonNullable<Input['unless']>

/** A copy of what came as JSON; what is shown may be wrapped. */
export const copyOf = (s: Settings): Settings => JSON.parse(JSON.stringify(s)) as Settings

const isObject = (x: unknown): x is Settings => typeof x === 'object' && x !== null && !Array.isArray(x)

/** The settings of a spec while they are filled in, member by member. */
export function useSettings(method: () => Method, start: Settings) {
  const settings = ref<Settings>(copyOf(start))

  function get(name: string): unknown {
    return name.split('.').reduce<unknown>((o, key) => (isObject(o) ? o[key] : undefined), settings.value)
  }

  function set(name: string, value: unknown): void {
    const next = copyOf(settings.value)
    const path = name.split('.')
    let o = next
    path.slice(0, -1).forEach((key, i) => (o = (isObject(o[key]) ? o[key] : (o[key] = begun(path.slice(0, i + 1)))) as Settings))
    const last = path[path.length - 1] ?? ''
    if (value === '' && path.length === 1 && !(last in method().settings)) delete o[last] // emptied, as it began
    else o[last] = value
    settings.value = next
  }

  /** What begins to be said begins with the usual level. */
  function begun(path: string[]): Settings {
    const of = `${path.join('.')}.`
    const usual = method().inputs.filter((i) => i.kind === 'level' && i.usual && i.name.startsWith(of) && !i.name.slice(of.length).includes('.'))
    return Object.fromEntries(usual.map((i) => [i.name.slice(of.length), Number(i.usual)]))
  }

  const holds = (when: When | undefined) => when !== undefined && get(when.input) === when.is
  const inputs = computed(() => method().inputs.filter((i) => !holds(i.unless)))
  const lines = computed(() => method().lines.filter((l) => !holds(l.unless) && (l.only === undefined || holds(l.only))))
  const optionsOf = (input: Input) => (input.options ?? []).filter((o) => !holds(input.without?.[o]))

  /** Takes over a change that the server offers: a JSON merge patch. */
  function merge(change: Settings): void {
    const into = (o: Settings, patch: Settings): Settings => {
      const out = { ...o }
      for (const [key, value] of Object.entries(patch))
        out[key] = isObject(value) ? into(isObject(out[key]) ? (out[key] as Settings) : {}, value) : value
      return out
    }
    settings.value = into(settings.value, change)
  }

  return { settings, get, set, merge, inputs, lines, optionsOf }
}
