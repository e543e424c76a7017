import { useEventListener } from '@vueuse/core'
import { shallowRef } from 'vue'

/** Files that were dropped or pasted on one page and are taken by the next. */
export const brought = shallowRef<File[]>([])

/** Takes what is pasted or dropped anywhere on a page: files, or cells as text. What is pasted
 * into a field stays that field's. */
export function useBringing(take: (files: File[]) => void, nameOfText: string) {
  useEventListener(document, 'paste', (e: ClipboardEvent) => {
    const into = e.target as HTMLElement
    if (into.closest('input, textarea, [contenteditable]') || !e.clipboardData) return
    const text = e.clipboardData.getData('text/plain')
    const files = text.trim() ? [new File([text], nameOfText, { type: 'text/plain' })] : [...e.clipboardData.files]
    if (files.length === 0) return
    e.preventDefault()
    take(files)
  })
  useEventListener(document, 'dragover', (e: DragEvent) => e.dataTransfer?.types.includes('Files') && e.preventDefault())
  useEventListener(document, 'drop', (e: DragEvent) => {
    const files = [...(e.dataTransfer?.files ?? [])]
    if (files.length === 0 || e.defaultPrevented) return
    e.preventDefault()
    take(files)
  })
}
