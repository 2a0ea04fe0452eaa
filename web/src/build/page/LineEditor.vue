<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { ActKind, Line } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import ActEditor from '../act/ActEditor.vue'
import { acts } from '../act/acts'
import { useBuild } from '../build'
import OfferedWhen from '../sheet/OfferedWhen.vue'
import TextSlot from '../sheet/TextSlot.vue'

/** One thing that pressing a button does, or that the page does by itself. */
const props = defineProps<{
  pointer: string
  place: string
  object: string
  last: boolean
  byItself?: boolean
}>()
const line = defineModel<Line>({ required: true })
const emit = defineEmits<{ remove: [] }>()
const build = useBuild()
const kinds = computed(() =>
  (build.contents?.acts ?? []).filter((a) => (props.byItself ? a.in_reactions : a.in_lines)),
)

function setKind(kind: ActKind): void {
  const key = acts[kind].gives ? line.value.key : undefined
  const { only_when } = line.value
  line.value = { ...(key ? { key } : {}), kind, ...(only_when ? { only_when } : {}), ...acts[kind].fresh() }
}
</script>

<template>
  <div class="line">
    <div class="row">
      <Select
        :model-value="line.kind"
        :options="kinds"
        option-label="words"
        option-value="kind"
        size="small"
        aria-label="What it does"
        @update:model-value="setKind"
      />
      <template v-if="acts[line.kind as ActKind]?.gives && (!last || line.key)">
        known to later lines as
        <TextSlot
          :model-value="line.key ?? ''"
          label="Known to later lines as"
          placeholder="nothing"
          class="key"
          @update:model-value="line = { ...line, key: $event || undefined }"
        />
      </template>
      <RemoveButton label="Do not do this" @press="emit('remove')" />
    </div>
    <ActEditor
      :act="line"
      :pointer="pointer"
      :place="place"
      :rows="object"
      @change="(member, settings) => (line = { ...line, [member]: settings })"
    />
    <OfferedWhen
      words="only when"
      :place="place"
      :model-value="line.only_when"
      @update:model-value="line = { ...line, only_when: $event }"
    />
  </div>
</template>

<style scoped>
.line {
  display: flex;
  flex-direction: column;
  gap: 0.3rem;
}
.key {
  width: 7rem;
}
</style>
