import { computed } from 'vue'

import { api } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import { useLoad } from '@/composables/useLoad'

import type { Ref } from 'vue'
import type { ReportBlock, ReportDefinition, ReportPiece } from '@/api/client'

/** The report of a study and what can be done with its pieces. Every change is stored whole, at
 * the version that was seen. */
export function useReport(studyId: Ref<number>) {
  const { data, loading, error, run } = useLoad(() => [studyId.value, 'report'], (signal) => api.report(studyId.value, signal), true)
  const { error: failed, attempt } = useAttempt()

  async function store(change: (report: ReportDefinition) => void): Promise<boolean> {
    if (!data.value) return false
    const to = structuredClone(data.value.report) as ReportDefinition
    change(to)
    const version = data.value.version
    const done = await attempt(() => api.editReport(studyId.value, version, to))
    if (done) data.value = done.value
    return done !== null
  }
  const pieces = computed(() => data.value?.report.pieces ?? [])
  const place = (report: ReportDefinition, id: number) => report.pieces.findIndex((p) => p.id === id)
  const nextId = () => Math.max(0, ...pieces.value.map((p) => p.id)) + 1

  const move = (id: number, by: number) =>
    store((r) => {
      const at = place(r, id)
      const [piece] = r.pieces.splice(at, 1)
      r.pieces.splice(Math.max(0, Math.min(r.pieces.length, at + by)), 0, piece!)
    })
  const remove = (id: number) => store((r) => (r.pieces = r.pieces.filter((p) => p.id !== id)))
  const edit = (id: number, change: Partial<ReportPiece>) => store((r) => Object.assign(r.pieces[place(r, id)]!, change))
  /** Prose before a piece, at the end without one; prose without words goes. */
  const write = (id: number | null, before: number | null, prose: string) =>
    store((r) => {
      if (id !== null && prose.trim() === '') r.pieces = r.pieces.filter((p) => p.id !== id)
      else if (id !== null) r.pieces[place(r, id)]!.prose = prose
      else if (prose.trim() !== '') r.pieces.splice(before === null ? r.pieces.length : place(r, before), 0, { id: nextId(), prose })
    })
  const made = computed(() => data.value?.made.blocks ?? [])
  /** The blocks of each piece, and those of what the report makes of itself. */
  const blocks = computed(() => {
    const out = new Map<number, ReportBlock[]>()
    for (const b of made.value) if (!b.part) out.set(b.piece, [...(out.get(b.piece) ?? []), b])
    return out
  })
  const front = computed(() => made.value.filter((b) => b.part === 'facts'))
  const back = computed(() => made.value.filter((b) => b.part && b.part !== 'facts'))
  return { data, loading, error, failed, run, store, pieces, blocks, front, back, move, remove, edit, write }
}
