import { ref } from 'vue'

/** Copies text and says so for a moment. */
export function useCopied() {
  const copied = ref(false)
  async function copy(text: string): Promise<void> {
    await navigator.clipboard.writeText(text)
    copied.value = true
    setTimeout(() => (copied.value = false), 2500)
  }
  return { copied, copy }
}
