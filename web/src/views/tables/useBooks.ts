import { computed } from 'vue'

import { api } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import { useLoad } from '@/composables/useLoad'

import type { Ref } from 'vue'
import type { Banner, BooksPage, Net, TableBook } from '@/api/client'

/** The banners, table books and nets of a study, and the book that is looked at. Every change is stored whole, at the
 * version that was seen; what comes back is shown. */
export function useBooks(studyId: Ref<number>, chosen: Ref<number>) {
  const { data, loading, error, run } = useLoad(() => [studyId.value, 'tables'], (signal) => api.books(studyId.value, signal), true)
  const { error: failed, attempt } = useAttempt()

  async function keep(work: () => Promise<BooksPage>): Promise<number | null> {
    const done = await attempt(work)
    if (done) data.value = done.value
    return done ? done.value.saved : null
  }
  const book = computed(() => data.value?.books.find((b) => b.id === chosen.value) ?? data.value?.books[0] ?? null)
  const banner = computed(() => data.value?.banners.find((b) => String(b.id) === book.value?.book.banner) ?? null)
  const byKey = computed(() => new Map((data.value?.questions ?? []).map((q) => [String(q.id), q])))

  async function change(edit: (b: TableBook) => void) {
    const now = book.value
    if (!now) return null
    const to = structuredClone(now.book)
    edit(to)
    return keep(() => api.editBook(studyId.value, now.id, now.version, to))
  }
  async function arrange(edit: (b: Banner) => void) {
    const now = banner.value
    if (!now) return null
    const to = structuredClone(now.banner)
    edit(to)
    return keep(() => api.editBanner(studyId.value, now.id, now.version, now.name, to))
  }
  const rename = (name: string) => keep(() => api.editBanner(studyId.value, banner.value!.id, banner.value!.version, name, banner.value!.banner))
  /** A first name that no other has. */
  const free = (name: string, taken: string[]) => {
    let n = 1
    let out = name
    while (taken.includes(out.toLowerCase())) out = `${name} ${++n}`
    return out
  }
  const bannerName = (name: string) => free(name, (data.value?.banners ?? []).map((b) => b.name.toLowerCase()))
  const bookTitle = (title: string) => free(title, (data.value?.books ?? []).map((b) => (b.book.title ?? '').toLowerCase()))
  const addBanner = (name: string, of: Banner) => keep(() => api.addBanner(studyId.value, bannerName(name), of))
  const addBook = (title: string, of: Omit<TableBook, 'title'>) => keep(() => api.addBook(studyId.value, { ...of, title: bookTitle(title) }))
  const removeBook = (id: number) => keep(() => api.deleteBook(studyId.value, id))
  const removeBanner = (id: number) => keep(() => api.deleteBanner(studyId.value, id))
  const setNets = (question: number, nets: Net[], ofList: boolean) =>
    keep(() => api.editNets(studyId.value, question, data.value!.netsVersion, nets, ofList))
  return { data, loading, error, failed, run, book, banner, byKey, change, arrange, rename, addBanner, addBook, removeBook, removeBanner, setNets }
}
