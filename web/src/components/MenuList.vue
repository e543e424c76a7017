<script setup lang="ts">
import type { MenuEntry } from './menu'

/** The menu of a MenuButton. */
defineProps<{ activator: HTMLElement; label: string; entries: MenuEntry[]; choice: boolean }>()
const open = defineModel<boolean>({ required: true })
</script>

<template>
  <v-menu v-model="open" :activator="activator" :open-on-click="false">
    <v-list class="menu-entries" :aria-label="label" :role="choice ? 'listbox' : undefined">
      <v-list-item
        v-for="entry in entries"
        :key="entry.key"
        :title="entry.title"
        :active="entry.chosen ?? false"
        :role="choice ? 'option' : undefined"
        :aria-selected="choice ? entry.chosen : undefined"
        :data-test="entry.test"
        @click="entry.act()"
      />
    </v-list>
  </v-menu>
</template>
