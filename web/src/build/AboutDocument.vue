<script setup lang="ts">
import MultiSelect from 'primevue/multiselect'
import { computed, ref } from 'vue'
import FloatPanel from '@/frame/FloatPanel.vue'
import { useBuild } from './build'
import { drop, put, type Edit } from './document'
import TextSlot from './sheet/TextSlot.vue'

/** Who a walkthrough or a page is for, and what is said of it where people choose it. */
const props = defineProps<{ about: { roles?: string[]; note?: string }; edit: Edit }>()
const build = useBuild()
const panel = ref<InstanceType<typeof FloatPanel> | null>(null)
const roles = computed(() => build.contents?.documents.filter((d) => d.kind === 'role') ?? [])
const labels = computed(() =>
  (props.about.roles ?? []).map((key) => roles.value.find((r) => r.key === key)?.label ?? key),
)
const words = computed(() => {
  if (!labels.value.length) return 'For nobody yet'
  const [first, second, ...rest] = labels.value
  return 'For ' + [first, second, rest.length ? `${rest.length} more` : ''].filter(Boolean).join(', ')
})

function setRoles(keys: string[]): void {
  void props.edit(put('/roles', keys))
}

function setNote(note: string): void {
  void props.edit(note.trim() ? put('/note', note) : drop('/note'))
}
</script>

<template>
  <button
    type="button"
    class="plain link"
    :title="labels.join(', ') || undefined"
    aria-haspopup="dialog"
    @click="panel?.toggle($event)"
  >
    {{ words }}
  </button>
  <FloatPanel ref="panel" aria-label="Who it is for">
    <div class="about">
      <label for="about-roles">For people who are</label>
      <MultiSelect
        :model-value="about.roles ?? []"
        input-id="about-roles"
        :options="roles"
        option-label="label"
        option-value="key"
        display="chip"
        placeholder="no role yet, so nobody finds it"
        fluid
        @update:model-value="setRoles"
      />
      <span>What it is for, said where people choose it</span>
      <TextSlot long :model-value="about.note ?? ''" label="What it is for" @update:model-value="setNote" />
    </div>
  </FloatPanel>
</template>

<style scoped>
.about {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
  width: 26rem;
}
</style>
