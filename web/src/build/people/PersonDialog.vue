<script setup lang="ts">
import Button from 'primevue/button'
import Checkbox from 'primevue/checkbox'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import MultiSelect from 'primevue/multiselect'
import { useConfirm } from 'primevue/useconfirm'
import { computed, ref, watch } from 'vue'
import { useAsked } from '@/api/asked'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'
import { findIn } from '@/api/options'
import type { AccountChange, AccountView, People, PersonDetails, Ref } from '@/api/types'
import FileInput from '@/fields/FileInput.vue'
import { trackSending } from '@/fields/files'
import ReferenceInput from '@/fields/ReferenceInput.vue'
import { useBuild } from '../build'
import { moment } from '@/fields/zone'

/** One person: who they are, what they are in each space, and when they signed in. */
const props = defineProps<{ person: AccountView | null; people: People }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ saved: [people: People]; linked: [link: string, name: string] }>()
const build = useBuild()
const confirm = useConfirm()
const entered = ref<AccountChange>({
  name: '',
  email: '',
  builder: false,
  administrator: false,
  active: true,
  spaces: [],
})
const { found: read } = useAsked(
  () => ['person', props.person?.id],
  (signal) => given(api.GET('/build/people/{id}', { params: { path: { id: props.person!.id } }, signal })),
  { when: () => open.value && !!props.person, fresh: true },
)
/** As they are since their password was reset here. */
const since = ref<PersonDetails | null>(null)
const details = computed(() => since.value ?? (props.person && read.value))
const sending = trackSending()
const { failed, problems, attempt, reset: forget } = useDoing()

watch(open, (is) => {
  if (!is) return
  const p = props.person
  forget()
  since.value = null
  const spaces = p?.spaces ?? ['production', 'trial'].map((space) => ({ space, roles: [] }))
  entered.value = JSON.parse(
    JSON.stringify({
      name: p?.name ?? '',
      email: p?.email ?? '',
      builder: !!p?.builder,
      administrator: !!p?.administrator,
      active: p?.active ?? true,
      picture: p?.picture,
      spaces,
    }),
  )
})

const save = () =>
  attempt(async () => {
    if (props.person) {
      emit(
        'saved',
        await given(
          api.PUT('/build/people/{id}', { params: { path: { id: props.person.id } }, body: entered.value }),
        ),
      )
    } else {
      const next = await given(api.POST('/build/people', { body: entered.value }))
      emit('linked', next.link, entered.value.name)
      emit('saved', next.people)
    }
    open.value = false
  })

function reset(): void {
  confirm.require({
    defaultFocus: 'reject',
    header: `Reset the password of ${entered.value.name}?`,
    message: 'They are signed out at once. You get a link to hand to them, with which they choose a new one.',
    acceptLabel: 'Reset it',
    rejectLabel: 'Leave it',
    rejectProps: { outlined: true },
    accept: () =>
      attempt(async () => {
        since.value = await given(
          api.POST('/build/people/{id}/reset', { params: { path: { id: props.person!.id } } }),
        )
        emit('linked', since.value.link ?? '', entered.value.name)
      }),
  })
}

const find = (space: string) => (text: string) => findIn(() => props.people.organisation, space)(text)

function belong(space: AccountChange['spaces'][number], to: Ref | null): void {
  space.organisation = to?.id
  space.organisation_label = to?.label
}
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    :header="person ? person.name : 'Invite somebody'"
    :style="{ width: '36rem' }"
  >
    <form @submit.prevent="save">
      <div class="pair">
        <label for="p-name">Name</label>
        <InputText id="p-name" v-model="entered.name" :invalid="!!problems.name" fluid autofocus />
        <label for="p-email">E-mail</label>
        <InputText id="p-email" v-model="entered.email" :invalid="!!problems.email" fluid />
        <span id="p-picture-label">Picture</span>
        <FileInput
          id="p-picture"
          picture
          label="Picture"
          :model-value="entered.picture ? { id: entered.picture, label: entered.name } : null"
          @update:model-value="entered.picture = ($event as Ref | null)?.id"
        />
      </div>
      <fieldset v-for="s in entered.spaces" :key="s.space">
        <legend>In {{ s.space }}</legend>
        <div class="pair">
          <label :for="'p-roles-' + s.space">Roles</label>
          <MultiSelect
            v-model="s.roles"
            :input-id="'p-roles-' + s.space"
            :options="people.roles"
            option-label="label"
            option-value="key"
            placeholder="none: may not do anything here"
            fluid
          />
          <template v-if="people.organisation">
            <label :for="'p-org-' + s.space">Belongs to</label>
            <ReferenceInput
              :id="'p-org-' + s.space"
              :model-value="s.organisation ? { id: s.organisation, label: s.organisation_label } : null"
              :find="find(s.space)"
              :placeholder="'the company itself, or ' + build.one(people.organisation)"
              @update:model-value="belong(s, $event)"
            />
          </template>
        </div>
      </fieldset>
      <div class="row">
        <label class="row"><Checkbox v-model="entered.builder" binary />may build</label>
        <label class="row"><Checkbox v-model="entered.administrator" binary />administrator</label>
        <label v-if="person" class="row"><Checkbox v-model="entered.active" binary />may sign in</label>
      </div>
      <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
      <div class="row">
        <Button
          type="submit"
          :label="person ? 'Save' : 'Invite'"
          :disabled="sending > 0 || !entered.name.trim() || !entered.email.trim()"
        />
        <Button v-if="person?.active" text label="Reset the password…" @click="reset" />
      </div>
    </form>
    <template v-if="details">
      <h2>Sign-ins</h2>
      <p v-if="!details.sign_ins.length" class="muted">They never tried.</p>
      <ol>
        <li v-for="(s, i) in details.sign_ins.slice(0, 10)" :key="i">
          {{ moment(s.at) }}
          <span :class="s.ok ? 'good' : 'bad'">{{ s.ok ? 'signed in' : 'wrong password' }}</span>
        </li>
      </ol>
    </template>
  </Dialog>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 0.8rem;
}
.pair {
  display: grid;
  grid-template-columns: 6rem minmax(0, 1fr);
  gap: 0.5rem 0.8rem;
  align-items: center;
}
fieldset {
  border: 0;
  border-top: 1px solid var(--line);
  padding: 0.5rem 0 0;
  margin: 0;
}
legend {
  font-weight: 600;
  padding-right: 0.5rem;
}
h2 {
  margin: 1.2rem 0 0.3rem;
}
ol {
  padding-left: 1.2rem;
  margin: 0;
}
</style>
