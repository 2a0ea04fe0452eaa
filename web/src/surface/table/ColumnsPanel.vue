<script setup lang="ts">
import { IconArrowDown, IconArrowUp } from '@tabler/icons-vue'
import Checkbox from 'primevue/checkbox'
import { computed, onMounted, ref } from 'vue'
import { useDoing } from '@/api/doing'
import type { Heading } from '@/api/types'
import type { Arranging } from './arranging'
import type { Asking } from './asking'
import type { Table } from './table'

/** Which columns a table has: the record's own fields, and those of what it refers to. */
const props = defineProps<{ table: Table; arranging: Arranging; ask: Asking }>()
const own = ref<Heading[]>([])
const beyond = ref<Record<string, Heading[]>>({})
const { failed, attempt } = useDoing()
const shown = computed(() => props.arranging.shown.value)
const has = (path: string) => shown.value.some((c) => c.path === path)

async function fields(through: string): Promise<Heading[]> {
  let found: Heading[] = []
  await attempt(async () => {
    found = (await props.ask.fields(through)).fields
    props.table.know(found)
  })
  return found
}
onMounted(async () => (own.value = await fields('')))

async function open(path: string): Promise<void> {
  if (beyond.value[path]) beyond.value = { ...beyond.value, [path]: undefined! }
  else beyond.value = { ...beyond.value, [path]: await fields(path) }
}

function toggle(h: Heading, through?: Heading): void {
  if (has(h.path)) return void props.arranging.hide(h.path)
  const label = through ? `${through.label} · ${h.label.toLowerCase()}` : h.label
  props.arranging.add({ path: h.path, label })
}

const leads = (h: Heading) => h.type === 'reference'
</script>

<template>
  <div class="panel">
    <section>
      <h3>Shown, from left to right</h3>
      <ol>
        <li v-for="(c, i) in shown" :key="c.path">
          <label>
            <Checkbox
              binary
              :model-value="true"
              :disabled="shown.length === 1"
              :input-id="'shown-' + c.path"
              @update:model-value="arranging.hide(c.path)"
            />
            {{ c.label }}
          </label>
          <span>
            <button
              type="button"
              class="plain"
              :aria-label="c.label + ' further left'"
              :disabled="i === 0"
              @click="arranging.moveBy(c.path, -1)"
            >
              <IconArrowUp :size="15" />
            </button>
            <button
              type="button"
              class="plain"
              :aria-label="c.label + ' further right'"
              :disabled="i === shown.length - 1"
              @click="arranging.moveBy(c.path, 1)"
            >
              <IconArrowDown :size="15" />
            </button>
          </span>
        </li>
      </ol>
      <label>
        <Checkbox
          binary
          :model-value="table.arrangement.value.numbers ?? false"
          @update:model-value="table.arrange({ numbers: $event || undefined })"
        />
        Row numbers
      </label>
      <button type="button" class="plain link" @click="arranging.show([])">The columns it came with</button>
    </section>
    <section>
      <h3>There is also</h3>
      <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
      <ul>
        <template v-for="f in own" :key="f.path">
          <li v-if="!has(f.path) || leads(f)">
            <label v-if="!has(f.path)">
              <Checkbox binary :model-value="false" @update:model-value="toggle(f)" /> {{ f.label }}
            </label>
            <span v-else class="muted">{{ f.label }}</span>
            <button v-if="leads(f)" type="button" class="plain link" @click="open(f.path)">
              {{ beyond[f.path] ? 'less' : 'its fields' }}
            </button>
          </li>
          <li v-for="g in beyond[f.path] ?? []" :key="g.path" class="beyond">
            <label>
              <Checkbox binary :model-value="has(g.path)" @update:model-value="toggle(g, f)" /> {{ g.label }}
            </label>
          </li>
        </template>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.panel {
  display: flex;
  gap: 1.6rem;
  max-height: 26rem;
  overflow: auto;
}
h3 {
  font-size: 0.85rem;
  color: var(--muted);
}
ol,
ul {
  list-style: none;
  margin: 0.3rem 0 0.6rem;
  padding: 0;
  min-width: 13rem;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 0.8rem;
  padding: 0.12rem 0;
}
label {
  display: flex;
  align-items: center;
  gap: 0.4rem;
}
.beyond {
  padding-left: 1.5rem;
}
button:disabled {
  opacity: 0.3;
}
section > .link {
  margin-top: 0.5rem;
}
</style>
