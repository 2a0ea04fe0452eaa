import { useStorage } from '@vueuse/core'
import { computed, ref, shallowRef, type Ref as VueRef } from 'vue'
import { api, given as answered, ProblemError, titleOf } from '@/api/client'
import { latest } from '@/api/latest'
import type { Answers, Effect, Entry, PressedButton, Recorded, Ref, Step, View } from '@/api/types'
import type { SurfaceSource } from '@/surface/source'
import { turnsOf } from '@/surface/turns'

/**
 * A rehearsal of the draft. The answers given so far are replayed on the server from
 * the start each time, in a transaction that is rolled back.
 */
export function useRehearsal(
  walkthrough: string,
  as: VueRef<number>,
  steps: () => Step[],
  effect: (e: Effect) => void,
) {
  const params = { path: { key: walkthrough } }
  const remembered = useStorage<Recorded[]>(`plainpath.rehearsal.${walkthrough}`, [])
  /** What the walkthrough is handed when it is rehearsed. */
  const taken = useStorage<Record<string, unknown>>(`plainpath.taken.${walkthrough}`, {})
  /** The day on whose clock it runs, today when empty. */
  const on = useStorage<string>(`plainpath.on.${walkthrough}`, '')
  /** A condition on what is known; it stops before the first screen is answered where it holds. */
  const stopWhen = useStorage<string>(`plainpath.stop.${walkthrough}`, '')
  /** It stopped because the condition holds. */
  const held = ref(false)
  const recorded = shallowRef<Recorded[]>([])
  /** The answers up to one that was refused. */
  const tried = shallowRef<Recorded[]>([])
  /** The buttons pressed on the screen it has come to. */
  const pressed = shallowRef<PressedButton[]>([])
  /** What was given by hand so far on the screen it has come to. */
  const typing = shallowRef<Recorded | undefined>(undefined)
  const view = shallowRef<View | null>(null)
  const trace = shallowRef<Entry[]>([])
  const samples = shallowRef<Record<string, string>>({})
  const problems = ref<Record<string, string>>({})
  const failed = ref('')
  const busy = ref(false)
  const kept = ref(false)
  const question = latest()

  /** Answers as they are called now: screens and their parts know the keys they had. */
  function renewed(answers: Recorded[]): Recorded[] {
    return answers.map((r) => {
      const step = steps().find((s) => s.key === r.screen) ?? steps().find((s) => s.was?.includes(r.screen))
      if (!step) return r
      const parts = (step.screen?.bands ?? []).flatMap((b) => b.columns.flatMap((c) => c.parts))
      const named = (key: string) =>
        parts.some((p) => p.key === key) ? key : (parts.find((p) => p.was?.includes(key))?.key ?? key)
      const given = r.answers && Object.entries(r.answers).map(([key, value]) => [named(key), value])
      return {
        screen: step.key,
        turns: r.turns,
        pressed: r.pressed?.map((p) => ({ ...p, part: p.part && named(p.part) })),
        answers: given && (Object.fromEntries(given) as Answers),
      }
    })
  }

  async function play(
    given: Recorded[],
    options: { recall?: boolean; upto?: string; keep?: boolean; past?: boolean } = {},
  ): Promise<void> {
    const isLatest = question.ask()
    const answers = renewed(given)
    remembered.value = renewed(remembered.value)
    busy.value = true
    failed.value = ''
    problems.value = {}
    try {
      const body = {
        as: as.value,
        taken: taken.value,
        recorded: answers,
        remembered: remembered.value,
        recall: options.recall,
        upto: options.upto,
        stop_when: (!options.keep && !options.past && stopWhen.value) || undefined,
        on: on.value || undefined,
        typing: typing.value,
      }
      const done = await answered(
        options.keep
          ? api.POST('/build/rehearsals/{key}/keep', { params, body })
          : api.POST('/build/rehearsals/{key}', { params, body, signal: isLatest.signal }),
      )
      if (!isLatest()) return
      const replayed = done.given.length
      recorded.value = done.given
      held.value = !!done.held
      tried.value = done.stopped ? answers.slice(0, replayed + 1) : []
      view.value = done.view ?? null
      if (typing.value?.screen !== done.view?.step) typing.value = undefined
      const here = options.recall ? undefined : answers[replayed]
      const stays = here && !here.answers && !done.stopped && here.screen === done.view?.step
      pressed.value = stays ? (here.pressed ?? []) : []
      trace.value = done.trace
      samples.value = done.samples as Record<string, string>
      kept.value = done.kept
      for (const p of done.problems ?? []) problems.value[p.pointer.slice(1)] = p.text
      if (done.stopped && !done.problems?.some((p) => p.pointer)) failed.value = done.stopped
    } catch (error) {
      if (!isLatest()) return
      failed.value = titleOf(error)
      if (error instanceof ProblemError && error.problem.findings) failed.value = ''
    } finally {
      if (isLatest()) busy.value = false
    }
  }

  function remember(one: Recorded): void {
    const same = (r: Recorded) => r.screen === one.screen && (r.turns ?? '') === (one.turns ?? '')
    remembered.value = [...remembered.value.filter((r) => !same(r)), one]
  }

  /** Where it has come to: the screen, and the turns of the repeats that it is in. */
  const here = () => ({ screen: view.value!.step, turns: turnsOf(view.value!) || undefined })
  const next = (answers: Answers) => {
    const at = here()
    remember({ ...at, answers })
    // Whoever goes on where it stopped goes past it.
    return play([...recorded.value, { ...at, answers, pressed: pressed.value }], { past: held.value })
  }
  /** What was done so far, on the screen it has come to as well. */
  const soFar = (): Recorded[] =>
    pressed.value.length && view.value
      ? [...recorded.value, { ...here(), pressed: pressed.value }]
      : recorded.value
  function hand(key: string, value: unknown): void {
    taken.value = { ...taken.value, [key]: value }
    void again()
  }
  /** What was typed on the screen that is left is offered again. */
  function at(day: string): void {
    on.value = day
    void again()
  }
  /** Gives once more what was given in a rehearsal that was kept. */
  function replay(given: Recorded[], handed: Answers): Promise<void> {
    taken.value = { ...handed }
    return play(given)
  }
  /** What was rehearsed, as it can be kept: what was refused counts as well. */
  const example = () =>
    answered(
      api.POST('/build/rehearsals/{key}/example', {
        params,
        body: {
          as: as.value,
          taken: taken.value,
          on: on.value || undefined,
          recorded: tried.value.length > recorded.value.length ? tried.value : soFar(),
          remembered: [],
        },
      }),
    )
  const back = (answers?: Answers) => {
    if (answers && view.value) remember({ ...here(), answers })
    return play(recorded.value.slice(0, -1))
  }
  const restart = () => play([])
  const again = () => play(soFar())
  const keep = () => play(recorded.value, { keep: true })

  /** Replays what was answered before, up to a screen, or as far as it goes. */
  const to = (screen: string) => play([], { recall: true, upto: screen })

  const options = (part: string, text: string): Promise<Ref[]> =>
    answered(
      api.POST('/build/rehearsals/{key}/options', {
        params,
        body: {
          as: as.value,
          taken: taken.value,
          recorded: soFar(),
          remembered: [],
          typing: typing.value,
          part,
          text,
        },
      }),
    )
  const source: SurfaceSource = {
    base: '/build/spaces/trial',
    at: (part) => ({
      rehearsal: {
        walkthrough,
        as: as.value,
        taken: taken.value,
        recorded: soFar(),
        typing: typing.value,
        part,
      },
    }),
    pressed: (what) => {
      pressed.value = [
        ...pressed.value,
        { ...what, given: what.reaction ? typing.value?.answers : undefined },
      ]
      void again()
    },
    typed: (answers) => (typing.value = { ...here(), answers }),
    effect,
    options,
    recordAddress: () => null,
  }
  /** Something was given that other parts of the screen follow. */
  async function follow(answers: Answers): Promise<boolean> {
    typing.value = { ...here(), answers }
    await again()
    return !failed.value
  }
  function stopAt(condition: string): void {
    stopWhen.value = condition
    void again()
  }
  const place = computed(() => view.value?.step ?? '')

  return {
    taken,
    on,
    at,
    stopWhen,
    stopAt,
    held,
    replay,
    example,
    hand,
    view,
    trace,
    samples,
    problems,
    failed,
    busy,
    kept,
    source,
    place,
    next,
    follow,
    back,
    restart,
    again,
    keep,
    to,
  }
}

export type Rehearsal = ReturnType<typeof useRehearsal>
