<script setup lang="ts">
import ConfirmDialog from 'primevue/confirmdialog'
import Toast from 'primevue/toast'
import { useRoute } from 'vue-router'
import KeysHelp from './frame/KeysHelp.vue'
import SignInAgain from './signin/SignInAgain.vue'
import TopBar from './frame/TopBar.vue'

const route = useRoute()
</script>

<template>
  <TopBar v-if="route.path !== '/sign-in' && !route.path.startsWith('/password/')" />
  <RouterView />
  <KeysHelp />
  <SignInAgain />
  <Toast position="bottom-center" />
  <ConfirmDialog :style="{ maxWidth: '36rem' }" />
</template>
