<script setup lang="ts">
import { ref } from 'vue'

import { lazily } from '@/app/later'

import type { MenuEntry } from './menu'

/** A button that opens a menu. The menu is fetched when it is opened first. To press, move and let
 * go over an entry takes it in one movement; where it stands in a sentence the first letter of an
 * entry takes it in one key, elsewhere letters are keys of the page. */
defineOptions({ inheritAttrs: false })
const props = defineProps<{ label: string; entries: MenuEntry[]; choice?: boolean; letters?: boolean }>()
const Menu = lazily(() => import('./MenuList.vue'))
const button = ref<HTMLElement>()
const wanted = ref(false)
const open = ref(false)
function toggle() {
  wanted.value = true
  open.value = !open.value
}
/** How far a pointer goes, in pixels, to be on its way to an entry. */
const stirred = 8
/** What opened it was the beginning of this press, whose end is no second one. */
let pressed = false
let from = { x: 0, y: 0 }
function press(e: PointerEvent) {
  pressed = false
  if (e.button !== 0 || e.pointerType !== 'mouse' || open.value) return
  pressed = true
  from = { x: e.clientX, y: e.clientY }
  toggle()
  document.addEventListener('pointerup', release, { once: true })
}
function release(e: PointerEvent) {
  // A menu that only just takes its place may lie under a pointer that has not moved.
  if (Math.hypot(e.clientX - from.x, e.clientY - from.y) < stirred) return
  if (button.value?.contains(e.target as Node)) return
  pressed = false
  ;(e.target as Element).closest<HTMLElement>('.menu-entries .v-list-item')?.click()
}
function click(e: MouseEvent) {
  if (!pressed || e.detail === 0) toggle()
  pressed = false
}
function letter(e: KeyboardEvent) {
  if (!props.letters || open.value || e.key.length !== 1 || e.key === ' ' || e.ctrlKey || e.metaKey || e.altKey) return
  const key = e.key.toLowerCase()
  const those = props.entries.filter((entry) => entry.title.toLowerCase().startsWith(key))
  const next = those[(those.findIndex((entry) => entry.chosen) + 1) % those.length]
  if (!next) return
  e.preventDefault()
  e.stopPropagation()
  next.act()
}
</script>

<template>
  <span class="menu-button">
    <button
      ref="button"
      type="button"
      aria-haspopup="menu"
      :aria-expanded="open"
      v-bind="$attrs"
      @pointerdown="press"
      @click="click"
      @keydown="letter"
      @keydown.down.prevent="open || toggle()"
    ><slot /> <span aria-hidden="true">▾</span></button>
    <Menu
      v-if="wanted && button"
      v-model="open"
      :activator="button"
      :label
      :entries
      :choice
    />
  </span>
</template>

<style scoped>
.menu-button { display: contents; }
</style>
