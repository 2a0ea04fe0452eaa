<script setup lang="ts">
import Select from 'primevue/select'
import { useConfirm } from 'primevue/useconfirm'
import { computed } from 'vue'
import type { ActKind, Line } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import ActEditor from '../act/ActEditor.vue'
import { acts } from '../act/acts'
import DoEditor from './DoEditor.vue'
import { useBuild } from '../build'
import OfferedWhen from '../sheet/OfferedWhen.vue'
import TextSlot from '../sheet/TextSlot.vue'

/** One thing that pressing a button does, or that the page does by itself. */
const props = defineProps<{
  pointer: string
  place: string
  object: string
  first: boolean
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
  const { only_when, alongside, if_fails } = line.value
  const stays = acts[kind].touches === 'writes' ? { if_fails } : { alongside }
  line.value = {
    ...(key ? { key } : {}),
    kind,
    ...(only_when ? { only_when } : {}),
    ...stays,
    ...acts[kind].fresh(),
  }
}
const writes = computed(() => acts[line.value.kind as ActKind]?.touches === 'writes')
const ways = [
  { key: false, label: 'then' },
  { key: true, label: 'at the same time' },
]
const confirm = useConfirm()

/** What would be done if it fails is not thrown away without a word. */
function failing(): void {
  const drop = () => (line.value = { ...line.value, if_fails: undefined })
  if (!line.value.if_fails) line.value = { ...line.value, if_fails: [] }
  else if (!line.value.if_fails.length) drop()
  else
    confirm.require({
      defaultFocus: 'reject',
      header: 'Remove what is done if it fails?',
      message: 'Undo brings it back.',
      acceptLabel: 'Remove it',
      rejectLabel: 'Keep it',
      rejectProps: { outlined: true },
      accept: drop,
    })
}
</script>

<template>
  <div class="line">
    <div class="row">
      <Select
        v-if="!first && !writes"
        :model-value="line.alongside ?? false"
        :options="ways"
        option-label="label"
        option-value="key"
        size="small"
        aria-label="When it is done"
        @update:model-value="line = { ...line, alongside: $event || undefined }"
      />
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
      :by-itself="byItself"
      @change="(member, settings) => (line = { ...line, [member]: settings })"
    />
    <OfferedWhen
      words="only when"
      :place="place"
      :model-value="line.only_when"
      @update:model-value="line = { ...line, only_when: $event }"
    />
    <label v-if="writes || line.if_fails" class="row">
      <input type="checkbox" :checked="!!line.if_fails" @click.prevent="failing" />
      if it fails, do something else than to stop
    </label>
    <div v-if="line.if_fails" class="instead">
      <DoEditor
        :model-value="line.if_fails"
        :pointer="pointer + '/if_fails'"
        :place="place"
        :object="object"
        :by-itself="byItself"
        @update:model-value="line = { ...line, if_fails: $event }"
      />
    </div>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  flex-direction: column;
  gap: 0.3rem;
}
.instead {
  border-left: 2px solid var(--line);
  padding-left: 0.8rem;
}
.key {
  width: 7rem;
}
</style>
