<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'
import { useConfirm } from 'primevue/useconfirm'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, counts, given, ProblemError, requestKey } from '@/api/client'
import { useDoing } from '@/api/doing'
import type { Answers, Run, View } from '@/api/types'
import { useFollowing } from '@/surface/following'
import { inOrder } from '@/surface/inorder'
import ScreenView from '@/surface/ScreenView.vue'
import type { SurfaceSource } from '@/surface/source'
import StillReading from '@/surface/StillReading.vue'
import { useEffects } from './effects'
import PageSide from './PageSide.vue'
import RunDialog from './RunDialog.vue'

const props = defineProps<{ id: string; dialog?: boolean }>()
const emit = defineEmits<{ done: [] }>()
const router = useRouter()
const confirm = useConfirm()
const run = ref<Run | null>(null)
const screen = ref<InstanceType<typeof ScreenView> | null>(null)
const path = computed(() => ({ id: props.id }))
const doing = useDoing()
const { busy, problems } = doing
const marked = computed(() => Object.keys(problems.value).length > 0)
const failed = computed(() =>
  marked.value ? 'Please look again at what is marked below.' : doing.failed.value,
)
const refusal = computed(() =>
  doing.error.value instanceof ProblemError ? doing.error.value.problem : undefined,
)
const moved = computed(() => refusal.value?.type === 'moved')
// The same answer sent again after a lost reply must carry the same key.
let key = requestKey()

const view = computed({
  get: () => run.value?.view,
  set: (next: View | null | undefined) => {
    if (run.value && next) run.value = { ...run.value, view: next }
  },
})
const following = useFollowing(
  view,
  async (answers, changed, signal) =>
    (
      await given(
        api.POST('/use/runs/{id}/given', {
          params: { path: path.value },
          body: { screen: view.value?.step ?? '', given: answers, changed },
          signal,
        }),
      )
    ).bands,
  (error) => (doing.error.value = error),
)

const effects = useEffects(true)
const source: SurfaceSource = {
  base: '/use',
  at: (part) => ({ run: { run: props.id, part, given: following.given.value } }),
  options: (part, text) =>
    given(
      api.POST('/use/runs/{id}/options', {
        params: { path: path.value },
        body: { part, text, given: following.given.value },
      }),
    ),
  recordAddress: (object, id) => `/use/record/${object}/${id}`,
  beside: true,
  typed: (answers) => (following.given.value = answers),
  effect: effects.effect,
}

async function take(work: () => Promise<Run>): Promise<void> {
  if (busy.value) return
  await doing.attempt(async () => {
    run.value = await work()
    key = requestKey()
    await inOrder(run.value.view?.effects ?? [], effects.effect)
    await nextTick()
    if (!props.dialog) window.scrollTo(0, 0)
  })
  if (refusal.value?.status === 422) key = requestKey()
}

const show = () => take(() => given(api.GET('/use/runs/{id}', { params: { path: path.value } })))
onMounted(show)
watch(() => props.id, show)

/** Something was written on the screen: it is read anew, with what was given on it. */
async function reread(): Promise<void> {
  await show()
  await following.again()
}

async function over(): Promise<void> {
  await reread()
  screen.value?.happens('dialog_over')
}

const next = (answers: Answers) =>
  take(() =>
    given(
      api.POST('/use/runs/{id}/answers', {
        params: { path: path.value },
        body: { revision: run.value!.revision, screen: run.value!.view!.step, answers },
        ...counts(key),
      }),
    ),
  )
const back = (answers: Answers) =>
  take(() =>
    given(
      api.POST('/use/runs/{id}/back', {
        params: { path: path.value },
        body: { revision: run.value!.revision, screen: run.value!.view!.back ?? '', answers },
        ...counts(requestKey()),
      }),
    ),
  )

/** What was typed is kept, and the walkthrough waits on the home page. */
async function later(answers: Answers): Promise<void> {
  await take(() =>
    given(
      api.POST('/use/runs/{id}/keep', {
        params: { path: path.value },
        body: { revision: run.value!.revision, answers },
        ...counts(requestKey()),
      }),
    ),
  )
  if (!failed.value) await leave()
}

function cancel(): void {
  confirm.require({
    defaultFocus: 'reject',
    header: `End “${run.value?.label}”?`,
    message: 'What was entered is thrown away. What it has written already stays.',
    acceptLabel: 'End it',
    rejectLabel: 'Go on with it',
    rejectProps: { outlined: true },
    accept: async () => {
      await doing.attempt(() => given(api.DELETE('/use/runs/{id}', { params: { path: path.value } })))
      if (!failed.value) await leave()
    },
  })
}

async function leave(): Promise<void> {
  if (props.dialog) emit('done')
  else await router.push('/use')
}

async function close(): Promise<void> {
  if (props.dialog || run.value?.view?.go !== 'again') return leave()
  const again = await effects.begin(run.value.walkthrough)
  await router.push('/use/run/' + again.id)
}
</script>

<template>
  <component :is="dialog ? 'div' : 'main'" :id="dialog ? undefined : 'main'" class="run" :class="{ dialog }">
    <Message v-if="failed" severity="error" :closable="false" role="alert" class="failure">
      {{ failed }}
      <Button v-if="moved || !run" text size="small" label="Show where it stands" @click="show" />
    </Message>
    <StillReading :busy="following.busy.value" what="what follows" @stop="following.stop" />
    <ScreenView
      v-if="run?.view"
      ref="screen"
      :label="run.label"
      :view="run.view"
      :source="source"
      :problems="problems"
      :busy="busy"
      :within="dialog"
      :follow="following.follow"
      :closes="dialog ? 'Close' : undefined"
      @next="next"
      @back="back"
      @later="later"
      @cancel="cancel"
      @close="close"
      @written="reread"
    />
    <RunDialog v-model="effects.dialog.value" @over="over" />
    <PageSide v-model="effects.side.value" />
  </component>
</template>

<style scoped>
.run {
  max-width: 54rem;
  margin: 1.6rem auto 4rem;
  padding: 0 1.2rem;
}
.failure {
  margin-bottom: 1rem;
}
.run.dialog {
  margin: 0;
  padding: 0;
}
</style>
