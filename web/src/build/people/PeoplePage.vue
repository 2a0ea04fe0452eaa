<script setup lang="ts">
import Button from 'primevue/button'
import { computed, ref } from 'vue'
import { useAsked } from '@/api/asked'
import { api, given } from '@/api/client'
import type { AccountView } from '@/api/types'
import { useSession } from '@/session'
import FileValue from '@/fields/FileValue.vue'
import { useBuild } from '../build'
import AuditLog from './AuditLog.vue'
import LinkOnce from './LinkOnce.vue'
import PersonDialog from './PersonDialog.vue'
import RightsMatrix from './RightsMatrix.vue'
import { moment } from '@/fields/zone'

/** Who there is, and what each role may do with each object. */
const build = useBuild()
const session = useSession()
/** Whether accounts can be changed by whoever looks. */
const administers = computed(() => !!session.me?.administrator)
const link = ref('')
const linkFor = ref('')
const log = ref(false)
const {
  found: people,
  failed: noPeople,
  again: askPeople,
} = useAsked(
  () => ['people'],
  (signal) => given(api.GET('/build/people', { signal })),
)
const {
  found: rights,
  failed: noRights,
  again: askRights,
} = useAsked(
  () => ['rights'],
  (signal) => given(api.GET('/build/rights', { signal })),
)
const failed = computed(() => noPeople.value || noRights.value)
const load = () => Promise.all([askPeople(), askRights()])
const open = ref(false)
const chosen = ref<AccountView | null>(null)

function roles(p: AccountView): string {
  const own = p.spaces.find((s) => s.space === 'production') ?? p.spaces[0]
  const labels = (own?.roles ?? []).map((k) => people.value?.roles.find((r) => r.key === k)?.label ?? k)
  return labels.join(', ') + (own?.organisation_label ? ` of ${own.organisation_label}` : '')
}

function edit(p: AccountView | null): void {
  chosen.value = p
  open.value = true
}

function linked(to: string, name: string): void {
  link.value = to
  linkFor.value = name
}

async function saved(): Promise<void> {
  await Promise.all([build.load(), load()])
}
</script>

<template>
  <main class="people">
    <p v-if="failed" class="bad" role="alert">
      {{ failed }} <button type="button" class="plain link" @click="load">Try again</button>
    </p>
    <template v-if="people">
      <h1 class="row">
        People
        <Button v-if="administers" outlined size="small" label="Invite somebody" @click="edit(null)" />
      </h1>
      <p v-if="!administers" class="muted">Administrators invite people and change what they are.</p>
      <table>
        <thead>
          <tr>
            <th>Name</th>
            <th>E-mail</th>
            <th>What they are</th>
            <th>Last signed in</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in people.people" :key="p.id" :class="{ muted: !p.active }">
            <td>
              <FileValue v-if="p.picture" :file="{ id: p.picture, label: '' }" picture class="face" />
              <button v-if="administers" type="button" class="plain link" @click="edit(p)">
                {{ p.name }}
              </button>
              <template v-else>{{ p.name }}</template>
              <span v-if="!p.active"> (may not sign in)</span>
            </td>
            <td>{{ p.email }}</td>
            <td>
              {{ roles(p) }}<template v-if="p.builder"> · may build</template
              ><template v-if="p.administrator"> · administrator</template>
            </td>
            <td>{{ p.last_sign_in ? moment(p.last_sign_in) : 'never' }}</td>
          </tr>
        </tbody>
      </table>
    </template>
    <template v-if="rights">
      <h2>What each role may do</h2>
      <p class="muted">
        The figures are records in trial that the role sees. Where a rule asks for a person, it is answered
        for the one named under the role. Press a role to change it.
      </p>
      <RightsMatrix :rights="rights" />
    </template>
    <details v-if="administers" @toggle="log = ($event.target as HTMLDetailsElement).open">
      <summary>What was done: sign-ins, accounts, rights, releases</summary>
      <AuditLog v-if="log" />
    </details>
    <PersonDialog
      v-if="people"
      v-model:open="open"
      :person="chosen"
      :people="people"
      @saved="saved"
      @linked="linked"
    />
    <LinkOnce v-model="link" :name="linkFor" />
  </main>
</template>

<style scoped>
.people {
  padding: 1.2rem 1.4rem 3rem;
}
table {
  margin: 0.8rem 0 1.8rem;
}
th,
td {
  text-align: left;
  border-bottom: 1px solid var(--line);
  padding: 0.3rem 1.6rem 0.3rem 0;
}
.face {
  margin-right: 0.4rem;
  vertical-align: middle;
}
th {
  color: var(--muted);
  font-weight: 600;
}
</style>
