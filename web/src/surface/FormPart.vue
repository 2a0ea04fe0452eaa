<script setup lang="ts">
import Button from 'primevue/button'
import { computed, nextTick, ref, watch } from 'vue'
import { useRecordForm } from './form/form'
import RecordForm from './form/RecordForm.vue'
import { formPlace } from './form/saving'
import type { PartEmits, PartProps } from './parts'

/** A record that is changed here, or one that is added. */
const props = defineProps<PartProps>()
const emit = defineEmits<PartEmits>()
const def = computed(() => props.part.form!)
const { records, find } = formPlace(
  () => props.source,
  () => props.part.key,
  () => def.value,
)
const form = useRecordForm(records)
const said = ref('')
const root = ref<HTMLElement | null>(null)
const id = computed(() => 'form-' + props.part.key)

// The record is another one, or what is on the page was read anew.
watch(
  () => props.part,
  (part, before) => {
    // What was entered stays, for the record may be chosen again.
    if (def.value.none) return form.dirty.value ? undefined : form.close()
    const other = !before || before.form?.none || before.form?.record !== part.form?.record
    if (other) said.value = ''
    void form.load(def.value.record, !other)
  },
  { immediate: true },
)

async function saved(): Promise<void> {
  const now = form.view.value
  said.value = def.value.record ? 'Saved.' : `“${now?.label}” was added.`
  emit('written')
  if (def.value.record) return
  await form.load(0)
  if (!def.value.next) return
  await nextTick()
  root.value?.querySelector<HTMLElement>('input, textarea, [tabindex="0"]')?.focus()
}
</script>

<template>
  <section ref="root" :aria-labelledby="part.label ? id : undefined">
    <h2 v-if="part.label" :id="id">{{ part.label }}</h2>
    <p v-if="def.none && !form.view.value" class="muted">Nothing is chosen yet.</p>
    <p v-else-if="!form.view.value && form.failed.value" class="bad" role="alert">
      {{ form.failed.value }}
      <button type="button" class="plain link" @click="form.load(def.record)">Try again</button>
    </p>
    <RecordForm
      v-else-if="form.view.value"
      :fields="def.fields"
      :form="form"
      :find="find"
      :currency="def.currency"
      :columns="def.columns"
      :save="def.save"
      :name="part.key + '-'"
      :source="source"
      @saved="saved"
    >
      <Button
        v-if="!def.record && form.dirty.value"
        text
        size="small"
        severity="secondary"
        label="Clear"
        @click="form.reset()"
      />
      <slot />
      <span v-if="said && !form.dirty.value" class="muted" role="status">{{ said }}</span>
    </RecordForm>
  </section>
</template>
