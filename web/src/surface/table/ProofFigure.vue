<script setup lang="ts">
import type { Heading, ProofFigure } from '@/api/types'
import { format } from '@/fields/fields'
import { totalWords } from './words'

/** How a total is made: of how many values, and how amounts are converted. */
const props = defineProps<{
  figure: ProofFigure
  heading: Heading | undefined
  converts: string
  open: (record: number) => string | null
}>()
const say = (v: unknown) => format({ ...props.heading, type: props.figure.total.type }, v)
const day = (v: unknown) => format({ type: 'date' }, v)
const n = (x: number) => x.toLocaleString()
</script>

<template>
  <section>
    <h3>The {{ totalWords(figure.total, heading) }}</h3>
    <table class="reckoning">
      <tbody>
        <tr v-if="!figure.pieces">
          <td class="n">{{ n(figure.filled) }}</td>
          <td>{{ figure.filled === 1 ? 'has' : 'have' }} a value that counts</td>
        </tr>
        <tr v-for="(p, i) in figure.pieces" :key="i">
          <td class="n">{{ n(p.count) }}</td>
          <td>
            {{ p.count === 1 ? 'comes' : 'come' }} to {{ say(p.value)
            }}<template v-if="p.rate?.rate"
              >, at {{ p.rate.rate }} {{ converts }} for 1 {{ p.rate.currency }}, the rate of
              {{ day(p.rate.day) }}</template
            ><span v-else-if="p.rate" class="care"
              >, for which there is no rate of {{ p.rate.currency }} up to {{ day(figure.rates_on) }}; so it
              stands by itself. It is that of
              <template v-for="(r, at) in p.without" :key="r.id"
                ><template v-if="at">, </template
                ><RouterLink v-if="open(r.id)" :to="open(r.id)!">{{ r.label }}</RouterLink
                ><template v-else>{{ r.label }}</template></template
              >{{ p.count > (p.without ?? []).length ? ' and others' : '' }}.</span
            >
          </td>
        </tr>
        <tr v-if="figure.empty">
          <td class="n">{{ n(figure.empty) }}</td>
          <td>without a value take no part</td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td />
          <td>
            <strong>{{ figure.total.values.map(say).join(' + ') || '–' }}</strong>
          </td>
        </tr>
      </tfoot>
    </table>
  </section>
</template>

<style scoped>
h3 {
  font-size: 1rem;
}
</style>
