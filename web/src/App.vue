<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import ConfirmDialog from 'primevue/confirmdialog'
import Toast from 'primevue/toast'
import { useConfirm } from 'primevue/useconfirm'
import { defineAsyncComponent, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { command, useJump } from './frame/keys'
import KeysHelp from './frame/KeysHelp.vue'
import NewerBuild from './frame/NewerBuild.vue'
import TopBar from './frame/TopBar.vue'
import SignInAgain from './signin/SignInAgain.vue'
import { askBeforeLeaving, mayLeave, unsaved } from './surface/unsaved'
import { useDrafts } from './build/drafts'
import { outside } from './router'
import { useSession } from './session'

const route = useRoute()
const router = useRouter()
const confirm = useConfirm()
const drafts = useDrafts()
const session = useSession()

// What was changed and is not saved is not left behind by mistake.
askBeforeLeaving(
  (count) =>
    new Promise((done) =>
      confirm.require({
        defaultFocus: 'reject',
        header: 'Not saved yet',
        message: `${count} ${count === 1 ? 'change is' : 'changes are'} not saved yet.`,
        acceptLabel: 'Leave without saving',
        rejectLabel: 'Stay',
        rejectProps: { outlined: true },
        accept: () => done(true),
        reject: () => done(false),
        onHide: () => done(false),
      }),
    ),
)
// Who signs out was asked before.
router.beforeEach((to, from) => to.path === from.path || to.path === '/sign-in' || mayLeave(unsaved()))
// What goes anywhere is loaded when it is first asked for.
const JumpBox = defineAsyncComponent(() => import('./frame/JumpBox.vue'))
const jump = useJump()
const jumped = ref(false)
watch(jump, (open) => (jumped.value ||= open))
useEventListener('keydown', (event: KeyboardEvent) => {
  if (command(event) !== 'jump' || outside(route.path)) return
  jump.value = !jump.value
  event.preventDefault()
})
useEventListener(window, 'beforeunload', (event) => {
  if (unsaved() || drafts.waiting) event.preventDefault()
})
</script>

<template>
  <TopBar v-if="route.matched.length && !outside(route.path)" />
  <NewerBuild />
  <p v-if="session.away" class="away" role="alert">
    The server does not answer. It is asked again and again;
    <button type="button" class="plain link" @click="session.askAgain()">ask now</button>.
  </p>
  <RouterView v-slot="{ Component }">
    <component :is="Component" :key="route.path.startsWith('/build') ? 'build' : route.path" />
  </RouterView>
  <KeysHelp />
  <JumpBox v-if="jumped" v-model="jump" />
  <SignInAgain />
  <Toast position="bottom-center" />
  <ConfirmDialog :style="{ maxWidth: '36rem' }" />
</template>

<style scoped>
.away {
  margin: 0;
  padding: 0.3rem 1rem;
  background: var(--tint);
  border-bottom: 1px solid var(--line);
}
</style>
