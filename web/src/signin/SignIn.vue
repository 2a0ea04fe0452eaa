<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useSession } from '@/session'
import SignInForm from './SignInForm.vue'

const session = useSession()
const route = useRoute()
const router = useRouter()
const form = ref<InstanceType<typeof SignInForm> | null>(null)
const demos = computed(() => session.me?.sign_ins ?? [])

onMounted(() => session.load())

function enter(): void {
  const to = typeof route.query.to === 'string' && route.query.to.startsWith('/') ? route.query.to : ''
  void router.push(to && to !== '/use' ? to : session.me?.builder ? '/build' : '/use')
}
</script>

<template>
  <main id="main" class="page">
    <section>
      <p class="mark">Plain Path</p>
      <h1>Sign in</h1>
      <p v-if="session.lingers" class="bad" role="alert">
        The server did not answer when you signed out, so this browser may still be signed in.
      </p>
      <SignInForm ref="form" @done="enter" />
    </section>
    <section v-if="demos.length" class="demo">
      <h2>This is the demo of {{ session.me?.app }}</h2>
      <p class="muted">Press a name to fill in its sign-in.</p>
      <ul>
        <li v-for="d in demos" :key="d.email">
          <button type="button" class="plain" @click="form?.fill(d)">
            <span class="link">{{ d.name }}</span> <span class="muted">{{ d.task }}</span>
          </button>
        </li>
      </ul>
    </section>
  </main>
</template>

<style scoped>
.page {
  display: flex;
  flex-wrap: wrap;
  gap: 4rem;
  max-width: 52rem;
  margin: 12vh auto 0;
  padding: 0 1.5rem;
}
section {
  flex: 1 1 18rem;
}
.mark {
  margin: 0 0 0.2rem;
  color: var(--accent);
  font-weight: 700;
}
h1 {
  margin-bottom: 1.2rem;
}
.demo {
  border-left: 1px solid var(--line);
  padding-left: 2rem;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li button {
  display: flex;
  gap: 0.8rem;
  padding: 0.3rem 0;
}
</style>
