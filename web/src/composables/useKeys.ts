import { onBeforeUnmount, onMounted } from 'vue'

/** Single-key commands, silent while somebody types or a dialog is open. */
export function useKeys(keys: Record<string, () => void>): void {
  function pressed(event: KeyboardEvent) {
    if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return
    const target = event.target as HTMLElement
    if (target.closest('input, textarea, select, [contenteditable], [role="dialog"], [role="listbox"], [role="menu"]')) return
    const run = keys[event.key]
    if (run) {
      event.preventDefault()
      run()
    }
  }
  onMounted(() => window.addEventListener('keydown', pressed))
  onBeforeUnmount(() => window.removeEventListener('keydown', pressed))
}
