<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useSession } from '@/session'
import SignInForm from './SignInForm.vue'

// A session that ended while somebody was working: they sign in on the spot and what
// they had entered is still there.
const session = useSession()
const route = useRoute()
const open = computed(
  () => !!session.me && !session.me.signed_in && !!session.me.csrf && route.path !== '/sign-in',
)
</script>

<template>
  <Dialog :visible="open" modal :closable="false" header="Your session has ended" :style="{ width: '24rem' }">
    <p>Sign in again to go on. What you entered is kept.</p>
    <SignInForm />
  </Dialog>
</template>
