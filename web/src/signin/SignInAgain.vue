<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useDrafts } from '@/build/drafts'
import { useSession } from '@/session'
import SignInForm from './SignInForm.vue'

// A session that ended while somebody was working: they sign in on the spot and what
// they had entered is still there.
const session = useSession()
const drafts = useDrafts()
const route = useRoute()
const router = useRouter()
const open = computed(
  () => !!session.me && !session.me.signed_in && !!session.me.csrf && route.path !== '/sign-in',
)

async function leave(): Promise<void> {
  drafts.forget()
  await session.signOut()
  await router.push('/sign-in')
}
</script>

<template>
  <Dialog :visible="open" modal :closable="false" header="Your session has ended" :style="{ width: '24rem' }">
    <p>Sign in again to go on. What you entered is kept.</p>
    <SignInForm />
    <p class="leave">
      <button type="button" class="plain link" @click="leave">Leave it and sign in anew</button>
    </p>
  </Dialog>
</template>

<style scoped>
.leave {
  margin: 1rem 0 0;
}
</style>
