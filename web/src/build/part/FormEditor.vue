<script setup lang="ts">
import Select from 'primevue/select'
import { computed, ref } from 'vue'
import type { FormField, FormDef, Part } from '@/api/types'
import FloatPanel from '@/frame/FloatPanel.vue'
import { withSetting } from '../act/settings'
import { useBuild } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useObjectOf } from '../conditions/known'
import OrderedTags from '../OrderedTags.vue'
import ValuesEditor from '../conditions/ValuesEditor.vue'
import TextSlot from '../sheet/TextSlot.vue'
import type { PartEditorProps } from './editor'

/** A form: about which record, with which fields, in how many columns. */
const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const build = useBuild()
const def = computed(() => props.part.form!)
const objectOf = useObjectOf(() => props.step)
const adds = computed(() => !def.value.source)
const object = computed(() => (adds.value ? def.value.object : objectOf(def.value.source!)))
const all = computed(() => build.object(object.value)?.fields ?? [])
const left = computed(() => all.value.filter((f) => !def.value.fields.some((d) => d.field === f.key)))
const labelOf = (key: string) => all.value.find((f) => f.key === key)?.label ?? key

function change(some: Partial<FormDef>): void {
  emit('change', { form: { ...def.value, ...some } })
}

const panel = ref<InstanceType<typeof FloatPanel> | null>(null)
const editing = ref(-1)
const edited = computed(() => def.value.fields[editing.value])

function edit(i: number, event: Event): void {
  editing.value = i
  panel.value?.show(event)
}

function changeField(some: Partial<FormField>): void {
  change({ fields: def.value.fields.map((f, n) => (n === editing.value ? { ...f, ...some } : f)) })
}

const checked = (event: Event) => (event.target as HTMLInputElement).checked || undefined
const widths = ['one column', 'two columns', 'three columns', 'four columns'].map((label, n) => ({
  label,
  columns: n + 1,
}))
</script>

<template>
  <div class="row">
    <template v-if="adds">
      for a new
      <Select
        :model-value="def.object ?? ''"
        :options="build.own"
        option-label="label"
        option-value="key"
        filter
        size="small"
        placeholder="which"
        aria-label="What the form adds"
        @update:model-value="change({ object: $event, fields: [], values: undefined })"
      />
    </template>
    <template v-else>
      to change
      <KnownPicker
        :model-value="def.source ?? ''"
        :place="step"
        kind="record"
        label="Which record the form changes"
        placeholder="one record"
        @update:model-value="change({ source: $event })"
      />
    </template>
    in
    <Select
      :model-value="def.columns ?? 1"
      :options="widths"
      option-label="label"
      option-value="columns"
      size="small"
      aria-label="Columns of the form"
      @update:model-value="change({ columns: $event > 1 ? $event : undefined })"
    />
    with the button
    <TextSlot
      :model-value="def.save ?? ''"
      label="What the button says"
      :placeholder="adds ? 'Add' : 'Save'"
      @update:model-value="change({ save: $event || undefined })"
    />
    <label v-if="adds" class="row">
      <input
        type="checkbox"
        :checked="def.next ?? false"
        @change="change({ next: ($event.target as HTMLInputElement).checked || undefined })"
      />
      then the next one
    </label>
  </div>
  <div v-if="object" class="row">
    fields
    <OrderedTags
      v-slot="{ item }"
      :model-value="def.fields"
      :key-of="(f) => f.field"
      :name="(f) => labelOf(f.field)"
      presses="How it stands in the form:"
      removes="Leave out"
      @update:model-value="change({ fields: $event })"
      @press="edit"
    >
      <span v-if="item.read_only" class="muted">, shown</span>
    </OrderedTags>
    <Select
      v-if="left.length"
      :key="def.fields.length"
      :model-value="''"
      :options="left"
      option-label="label"
      option-value="key"
      filter
      size="small"
      placeholder="another field"
      aria-label="Add a field to the form"
      @update:model-value="change({ fields: [...def.fields, { field: $event }] })"
    />
    <FloatPanel ref="panel" aria-label="A field of the form">
      <div v-if="edited" class="how">
        <label
          ><input
            type="checkbox"
            :checked="edited.read_only ?? false"
            @change="changeField({ read_only: checked($event) })"
          />
          only shown</label
        >
        <label
          ><input
            type="checkbox"
            :checked="edited.wide ?? false"
            @change="changeField({ wide: checked($event) })"
          />
          takes the whole width</label
        >
        <label for="form-group">Heading over it</label>
        <TextSlot
          id="form-group"
          :model-value="edited.group ?? ''"
          label="Heading over it"
          placeholder="none"
          @update:model-value="changeField({ group: $event || undefined })"
        />
      </div>
    </FloatPanel>
  </div>
  <template v-if="adds && object">
    <span class="muted">A new one begins with</span>
    <ValuesEditor
      :object="object"
      :place="step"
      :values="def.values ?? []"
      @set="(field, value) => change({ values: withSetting(def.values ?? [], field, value) })"
      @unset="change({ values: withSetting(def.values ?? [], $event, undefined) })"
    />
  </template>
</template>

<style scoped>
.how {
  display: flex;
  flex-direction: column;
  gap: 0.3rem;
}
</style>
