import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { opensForm } from '@/composables/useMethods'

import type { Method, Question } from '@/api/client'
import type { Act } from '@/components/menu'

interface State {
  question: Question
  methods: Method[]
  asking: string | null
  arranging: boolean
  deriving: 'merge' | 'bands' | null
  designing: boolean
}
interface Does {
  open: (method: Method) => void
  arrange: () => void
  derive: (rule: 'merge' | 'bands') => void
  select: () => void
  shelve: () => void
  design: () => void
}

/** So many of what is asked most stand beside a question at rest. */
const atRest = 3

/** All that can be done with a question: for the line under it, its menu, and its keys. */
export function useActs(state: () => State, does: Does) {
  const { t } = useI18n()
  const asks = computed<Act[]>(() => {
    let usual = 0
    return state().methods.map((m) => ({
      key: m.name,
      title: t(`ask.${m.texts}.act`),
      texts: `ask.${m.texts}`,
      purpose: m.purpose,
      letter: m.key ?? '',
      rank: m.seldom ? 2 : usual++ < atRest ? 0 : 1,
      test: `ask-${m.name}`,
      opens: opensForm(m),
      open: state().asking === m.name,
      act: () => does.open(m),
    }))
  })
  const changes = computed<Act[]>(() => {
    const { question, arranging, deriving, designing } = state()
    const makes = (rule: 'merge' | 'bands') => question.derivable.some((d) => d.rule === rule)
    const act = (key: string, letter: string, title: string, more: Pick<Act, 'act'> & Partial<Act>): Act => ({
      key,
      title,
      letter,
      texts: `acts.${key}`,
      purpose: 'change',
      rank: 2,
      test: key.replace('_', '-'),
      opens: true,
      ...more,
    })
    return [
      ...(question.proposed.length
        ? [act('design_step', 'w', t('topline.design'), { purpose: 'compare', rank: 1, open: designing, act: does.design })] : []),
      ...(question.tabulated ? [act('arrange', 'a', t(arranging ? 'topline.arranged' : 'topline.arrange'),
        { rank: 1, open: arranging, act: does.arrange })] : []),
      ...(makes('merge') ? [act('merge', 'M', t('topline.merge'), { open: deriving === 'merge', act: () => does.derive('merge') })] : []),
      ...(makes('bands') ? [act('bands', 'K', t('topline.bands'), { open: deriving === 'bands', act: () => does.derive('bands') })] : []),
      ...(question.tabulated
        ? [
            act('shelve', 's', t('topline.shelve'), { opens: false, act: does.shelve }),
            act('select', 'r', t(question.selected ? 'topline.leave_out' : 'topline.select'), { opens: false, act: does.select }),
          ]
        : []),
    ]
  })
  return computed(() => [...asks.value, ...changes.value])
}
