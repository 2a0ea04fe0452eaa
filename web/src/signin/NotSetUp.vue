<template>
  <main id="main" class="page">
    <p class="mark">Plain Path</p>
    <h1>Nothing is set up here yet</h1>
    <p>
      When the program starts it prints an address with which the first administrator and the first app are
      made. Open that address; it is in the program’s output, and is printed again at each start.
    </p>
  </main>
</template>

<style scoped>
.page {
  max-width: 32rem;
  margin: 12vh auto 0;
  padding: 0 1.2rem;
}
.mark {
  margin: 0 0 0.2rem;
  color: var(--accent);
  font-weight: 700;
}
</style>
