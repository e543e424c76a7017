<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import ErrorNote from '@/components/ErrorNote.vue'
import FileChoice from '@/components/FileChoice.vue'
import { useSession } from '@/app/session'
import { useAttempt } from '@/composables/useAttempt'

import FileForOthers from './FileForOthers.vue'

import type { CodebookFit, CodebookQuestion } from '@/api/client'

/** The codebook as a file: out in open formats, in from them. */
const props = defineProps<{ studyId: number; questions: CodebookQuestion[] }>()
const emit = defineEmits<{ applied: [] }>()
const { t } = useI18n()
const { error, attempt } = useAttempt()
const fit = shallowRef<CodebookFit | null>(null)
const arrival = ref('')
const name = ref('')
const done = ref(false)
const session = useSession()
const formats = computed(() => (['csv', 'ddi', 'package'] as const).filter((f) => f !== 'package' || session.may.ask))
const others = ref(false)

const take = ([file]: File[]) =>
  attempt(async () => {
    fit.value = null
    done.value = false
    if (!file) return
    const a = await api.arrive(file.name, file)
    arrival.value = a.id
    name.value = file.name
    fit.value = await api.importCodebook(props.studyId, a.id, true)
  })
const apply = () =>
  attempt(async () => {
    fit.value = await api.importCodebook(props.studyId, arrival.value, false)
    done.value = true
    emit('applied')
  })
</script>

<template>
  <section class="files">
    <h2>{{ t('codebook.out') }}</h2>
    <p class="acts"><a
      v-for="f in formats"
      :key="f"
      class="act"
      :href="api.codebookFile(studyId, f)"
      download
    >{{ t(`codebook.formats.${f}`) }}</a></p>
    <template v-if="session.may.change">
      <h2><button
        type="button"
        class="act"
        :aria-expanded="others"
        data-test="open-for-others"
        @click="others = !others"
      >{{ t('for_others.act') }}</button></h2>
      <FileForOthers v-if="others" :study-id="studyId" :questions="questions" />
    </template>
    <h2>{{ t('codebook.in') }}</h2>
    <p>{{ t('codebook.in_hint') }}</p>
    <p>
      <FileChoice
        v-slot="{ open }"
        :label="t('codebook.choose_file')"
        accept=".csv,.xml,.json,.zip"
        test="codebook-file"
        @files="take"
      >
        <button type="button" class="act" @click="open">{{ t('codebook.choose_file') }}</button>
      </FileChoice>
    </p>
    <ErrorNote v-if="error" :error="error" />
    <div v-if="fit" data-test="codebook-fit">
      <p><b>{{ name }}</b>: {{ t('codebook.fit', fit.matched.length) }}</p>
      <ul>
        <li v-if="fit.lacking.length">{{ t('codebook.fit_lacking', { list: fit.lacking.join(', ') }) }}</li>
        <li v-if="fit.further.length">{{ t('codebook.fit_further', { list: fit.further.join(', ') }) }}</li>
        <li v-if="fit.kindsKept.length">{{ t('codebook.fit_kept', { list: fit.kindsKept.join(', ') }) }}</li>
      </ul>
      <p v-if="done" role="status">{{ t('codebook.applied') }}</p>
      <v-btn
        v-else
        variant="flat"
        color="primary"
        :disabled="fit.matched.length === 0"
        data-test="codebook-apply"
        @click="apply"
      >{{ t('codebook.apply_it') }}</v-btn>
    </div>
  </section>
</template>

<style scoped>
.files { max-width: 720px; display: grid; gap: 10px; justify-items: start; }
h2 { font-size: 17px; font-weight: 600; margin-top: 10px; }
.acts a { text-decoration: none; }
.pick { cursor: pointer; }
.pick:focus-within { outline: 2px solid var(--teal); }
ul { padding-left: 18px; margin: 6px 0; overflow-wrap: anywhere; }
</style>
