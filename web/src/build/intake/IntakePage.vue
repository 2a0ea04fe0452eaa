<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'
import ProgressBar from 'primevue/progressbar'
import { useConfirm } from 'primevue/useconfirm'
import { computed, onMounted } from 'vue'
import { useRouter } from 'vue-router'
import type { Intake, SheetPlan } from '@/api/types'
import { useBuild } from '../build'
import { useIntake } from './intake'
import IntakeResult from './IntakeResult.vue'
import SheetPlanView from './SheetPlanView.vue'

const props = defineProps<{ id: string }>()
const router = useRouter()
const confirm = useConfirm()
const build = useBuild()
const state = useIntake(() => props.id)
const intake = state.intake
onMounted(state.load)

const working = computed(() => ['analysing', 'checking', 'importing'].includes(intake.value?.state ?? ''))
const plan = computed(() => intake.value?.plan)
const share = computed(() => {
  const i = intake.value
  return i?.total ? Math.min(100, Math.round((i.done / i.total) * 100)) : null
})
const doings: Partial<Record<Intake['state'], string>> = {
  analysing: 'Looking at the files',
  checking: 'Trying it',
  importing: 'Bringing it in',
}
const doing = computed(() => {
  const i = intake.value!
  const what = i.doing || doings[i.state]
  return i.done
    ? `${what}: ${i.done.toLocaleString()}${i.total ? ' of ' + i.total.toLocaleString() : ' rows'}`
    : what
})
const unreadable = computed(() => intake.value?.files.filter((f) => f.problem) ?? [])

function setSheet(index: number, sheet: SheetPlan): void {
  void state.setPlan({ sheets: plan.value!.sheets.map((s, i) => (i === index ? sheet : s)) })
}

async function discard(): Promise<void> {
  confirm.require({
    defaultFocus: 'reject',
    header: 'Throw this away?',
    message: 'The files and the plan for them are thrown away. Records that were brought in stay.',
    acceptLabel: 'Throw away',
    rejectLabel: 'Keep it',
    rejectProps: { outlined: true },
    accept: async () => {
      await state.discard()
      await router.push('/build/intake')
    },
  })
}

async function done(object: string): Promise<void> {
  await build.load()
  await router.push('/build/object/' + object)
}
</script>

<template>
  <main v-if="intake" class="intake">
    <header class="row">
      <h1>{{ intake.files.map((f) => f.name).join(', ') }}</h1>
      <span :class="intake.space === 'production' ? 'care' : 'muted'">into {{ intake.space }}</span>
      <span class="space" />
      <Button v-if="!working" text size="small" severity="danger" label="Throw away" @click="discard" />
    </header>
    <Message v-if="state.failed.value" severity="error" :closable="false" role="alert">{{
      state.failed.value
    }}</Message>
    <Message v-if="intake.failure" severity="error" :closable="false" role="alert">{{
      intake.failure
    }}</Message>
    <Message v-for="f in unreadable" :key="f.name" severity="error" :closable="false">{{
      f.problem
    }}</Message>
    <p v-if="intake.state === 'uploading'">
      Not all of the files arrived. <RouterLink to="/build/intake">Choose them once more.</RouterLink>
    </p>
    <section v-if="working" class="working" aria-live="polite">
      <p>{{ doing }}</p>
      <ProgressBar
        :value="share ?? undefined"
        :mode="share === null ? 'indeterminate' : 'determinate'"
        :aria-label="doing"
      />
      <p class="muted">You can leave this page; the work goes on.</p>
      <Button outlined size="small" label="Stop" @click="state.stop()" />
    </section>
    <template v-else-if="plan">
      <IntakeResult v-if="intake.result" :intake="intake" @open="done" />
      <template v-if="intake.state !== 'imported'">
        <SheetPlanView
          v-for="(s, i) in plan.sheets"
          :key="i"
          :sheet="s"
          :found="intake.found[i]"
          :file="intake.files[s.file]"
          :plan="plan"
          :index="i"
          :wrong="intake.wrong.filter((w) => w.sheet === i)"
          @change="setSheet(i, $event)"
          @reading="state.reread(s.file, $event)"
          @object="state.intoObject(i, $event)"
          @column="(c, wish) => state.planColumn(i, c, wish)"
        />
        <footer class="row">
          <Button
            :label="intake.state === 'checked' ? 'Try again' : 'Try it'"
            :outlined="intake.state === 'checked'"
            :disabled="intake.wrong.length > 0 || state.saving.value"
            @click="state.check()"
          />
          <Button
            v-if="intake.state === 'checked'"
            label="Bring it in"
            :disabled="intake.wrong.length > 0"
            @click="state.bringIn()"
          />
          <span v-if="intake.wrong.length" class="bad"
            >{{ intake.wrong.length }} things to settle first, marked above.</span
          >
          <span v-else class="muted">
            {{
              intake.state === 'checked'
                ? 'The rows that fit come in together; those refused stay listed.'
                : 'Trying it says how many records would be added, changed and refused. Nothing is stored.'
            }}
          </span>
        </footer>
      </template>
    </template>
  </main>
  <p v-else-if="state.failed.value" class="intake bad" role="alert">{{ state.failed.value }}</p>
</template>

<style scoped>
.intake {
  padding: 1.2rem 1.4rem 3rem;
}
.space {
  flex: 1;
}
.working {
  max-width: 34rem;
}
footer {
  position: sticky;
  bottom: 0;
  background: var(--paper);
  border-top: 1px solid var(--line);
  padding: 0.7rem 0;
}
</style>
