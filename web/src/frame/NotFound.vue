<template>
  <main id="main" class="gone">
    <h1>There is nothing at this address</h1>
    <p>It may have been renamed or removed. <RouterLink to="/use">Go to the home page</RouterLink>.</p>
  </main>
</template>

<style scoped>
.gone {
  max-width: 40rem;
  margin: 4rem auto;
  padding: 0 1rem;
}
</style>
