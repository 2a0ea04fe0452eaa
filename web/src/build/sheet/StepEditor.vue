<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { ActKind, Step } from '@/api/types'
import ActEditor from '../act/ActEditor.vue'
import { acts, isAct } from '../act/acts'
import { drop, put } from '../document'
import { keyAfter } from '../keys'
import BranchEditor from './BranchEditor.vue'
import { useSheet } from './context'
import FindingNote from './FindingNote.vue'
import KeySlot from './KeySlot.vue'
import OfferedWhen from './OfferedWhen.vue'
import RepeatEditor from './RepeatEditor.vue'
import ScreenButtons from './ScreenButtons.vue'
import ScreenSearches from './ScreenSearches.vue'
import ReactionList from '../page/ReactionList.vue'
import PartsEditor from '../part/PartsEditor.vue'
import SentenceSlot from './SentenceSlot.vue'
import TextSlot from './TextSlot.vue'

const props = defineProps<{ step: Step; pointer: string }>()
const emit = defineEmits<{ remove: [] }>()
const sheet = useSheet()

function retitle(title: string): void {
  const key = keyAfter(sheet.body(), props.step.key, props.step.title ?? '', title)
  const follows = key === props.step.key ? [] : [put(props.pointer + '/key', key)]
  void sheet.edit(put(props.pointer + '/title', title), ...follows)
}
/** What writes may be refused; what is done then stands below it in the sheet. */
const refusable = computed(
  () => acts[props.step.kind as ActKind]?.touches === 'writes' || ['gather', 'run'].includes(props.step.kind),
)

async function failing(event: Event): Promise<void> {
  const box = event.target as HTMLInputElement
  const at = props.pointer + '/if_fails'
  if (box.checked) return void sheet.edit(put(at, []))
  const held = props.step.if_fails?.length
  if (!held || (await sheet.removable(at, 'what is done if it fails'))) void sheet.edit(drop(at))
  else box.checked = true
}

const endings = [
  { key: 'home', label: 'to the home page' },
  { key: 'again', label: 'to the start again' },
]
// Findings of a part stand with the part; the rest stand here.
const findings = computed(() =>
  sheet.findings.value.filter((f) => f.step === props.step.key && !f.pointer.includes('/parts/')),
)
</script>

<template>
  <div class="settings" :aria-label="'Settings of ' + (step.title || step.key)" role="group">
    <div class="row">
      <TextSlot
        :model-value="step.title ?? ''"
        label="Title"
        placeholder="title"
        class="title"
        @update:model-value="retitle"
      />
      <KeySlot :pointer="pointer" :name="step.key" label="Key of the step" />
      <span class="space" />
      <Button text size="small" severity="danger" label="Remove the step" @click="emit('remove')" />
    </div>
    <template v-if="step.screen">
      <PartsEditor
        :step="step.key"
        :place="step.key + '!'"
        :bands="step.screen.bands"
        :searches="step.screen.searches"
        :pointer="pointer + '/screen'"
      />
      <ScreenSearches :screen="step.screen" :step="step.key" :pointer="pointer + '/screen'" />
      <ScreenButtons :screen="step.screen" :step="step.key" :pointer="pointer + '/screen'" />
      <details :open="!!step.screen.reactions?.length">
        <summary>What it does by itself</summary>
        <ReactionList
          :bands="step.screen.bands"
          :reactions="step.screen.reactions ?? []"
          :pointer="pointer + '/screen'"
          :place="step.key + '!'"
        />
      </details>
    </template>
    <ActEditor
      v-else-if="isAct(step.kind)"
      :act="step"
      :pointer="pointer"
      :place="step.key"
      in-steps
      @change="(member, settings) => sheet.edit(put(`${pointer}/${member}`, settings))"
    />
    <BranchEditor v-else-if="step.branch" :step="step" :pointer="pointer" />
    <RepeatEditor v-else-if="step.repeat" :step="step" :pointer="pointer" />
    <template v-else-if="step.finish">
      <SentenceSlot
        long
        :place="step.key"
        :model-value="step.finish.message"
        label="Closing message"
        @update:model-value="sheet.edit(put(pointer + '/finish/message', $event))"
      />
      <PartsEditor
        :step="step.key"
        :place="step.key"
        closing
        :bands="step.finish.bands ?? []"
        :pointer="pointer + '/finish'"
      />
      <div class="row">
        The button leads
        <Select
          :model-value="step.finish.go || 'home'"
          :options="endings"
          option-label="label"
          option-value="key"
          size="small"
          aria-label="Where the button leads"
          @update:model-value="sheet.edit(put(pointer + '/finish/go', $event))"
        />
      </div>
    </template>
    <OfferedWhen
      v-if="isAct(step.kind)"
      words="only when"
      :place="step.key"
      :model-value="step.only_when"
      @update:model-value="
        sheet.edit($event ? put(pointer + '/only_when', $event) : drop(pointer + '/only_when'))
      "
    />
    <label v-if="refusable" class="row">
      <input type="checkbox" :checked="!!step.if_fails" @change="failing" />
      if it fails, do other steps than to stop
    </label>
    <FindingNote v-for="f in findings" :key="f.pointer + f.text" :finding="f" />
  </div>
</template>

<style scoped>
.settings {
  display: flex;
  flex-direction: column;
  gap: 0.6rem;
  padding: 0.7rem 0.8rem 0.9rem;
  background: var(--panel);
  border: solid var(--line);
  border-width: 0 0 1px;
  border-left: 3px solid var(--accent);
}
.space {
  flex: 1;
}
.title {
  min-width: 18rem;
  font-weight: 600;
}
</style>
