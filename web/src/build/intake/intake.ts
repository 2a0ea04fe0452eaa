import { onUnmounted, ref, shallowRef } from 'vue'
import { api, bytes, counts, given, requestKey, titleOf } from '@/api/client'
import type { ColumnWish, Intake, IntakePlan, IntakeSettings } from '@/api/types'
import { sendParts } from '@/api/upload'

/** Sends files one after the other. */
export async function upload(
  space: string,
  files: File[],
  told: (sent: number, all: number) => void,
): Promise<Intake> {
  const all = files.reduce((sum, f) => sum + f.size, 0)
  let intake = await given(
    api.POST('/build/spaces/{space}/intakes', {
      params: { path: { space } },
      body: { files: files.map((f) => ({ name: f.name, size: f.size })) },
      ...counts(requestKey()),
    }),
  )
  let sent = 0
  for (const [i, file] of files.entries()) {
    const { id } = intake
    const send = (part: number, piece: Blob) =>
      given(
        api.PUT('/build/intakes/{id}/files/{file}/parts/{part}', {
          params: { path: { id, file: i, part } },
          ...bytes(piece),
        }),
      )
    intake = (await sendParts(file, send, (n) => told((sent += n), all))) ?? intake
  }
  return intake
}

/** One intake as it goes on. Work in the background is followed until it is done. */
export function useIntake(id: () => string) {
  const intake = shallowRef<Intake | null>(null)
  const failed = ref('')
  const saving = ref(false)
  let timer: ReturnType<typeof setTimeout> | undefined
  const path = () => ({ id: id() })
  const params = () => ({ params: { path: path() } })
  const working = (i: Intake) => ['uploading', 'analysing', 'checking', 'importing'].includes(i.state)

  function take(next: Intake): void {
    intake.value = next
    clearTimeout(timer)
    if (working(next)) timer = setTimeout(load, 400)
  }

  async function load(): Promise<void> {
    await attempt(() => given(api.GET('/build/intakes/{id}', params())))
    if (failed.value && intake.value && working(intake.value)) timer = setTimeout(load, 3000)
  }

  async function attempt(work: () => Promise<Intake>): Promise<void> {
    failed.value = ''
    try {
      take(await work())
    } catch (error) {
      failed.value = titleOf(error)
    }
  }

  async function plan(work: () => Promise<Intake>): Promise<void> {
    saving.value = true
    await attempt(work)
    saving.value = false
  }

  /** The plan as it is to be; what is wrong with it comes back at once. */
  async function setPlan(next: IntakePlan): Promise<void> {
    if (intake.value) intake.value = { ...intake.value, plan: next }
    await plan(() => given(api.PUT('/build/intakes/{id}/plan', { ...params(), body: next })))
  }

  /** A sheet goes into another object, or a new one when the key is empty; it is planned anew. */
  const intoObject = (sheet: number, object: string) =>
    plan(() =>
      given(
        api.PUT('/build/intakes/{id}/sheets/{sheet}/object', {
          params: { path: { ...path(), sheet } },
          body: { object },
        }),
      ),
    )
  const planColumn = (sheet: number, column: number, wish: ColumnWish) =>
    plan(() =>
      given(
        api.PUT('/build/intakes/{id}/sheets/{sheet}/columns/{column}', {
          params: { path: { ...path(), sheet, column } },
          body: wish,
        }),
      ),
    )

  /** A file is read anew as it is set. */
  const reread = (file: number, settings: IntakeSettings) =>
    plan(() =>
      given(
        api.PUT('/build/intakes/{id}/files/{file}/settings', {
          params: { path: { ...path(), file } },
          body: settings,
        }),
      ),
    )

  const check = () => attempt(() => given(api.POST('/build/intakes/{id}/check', params())))
  const bringIn = () => attempt(() => given(api.POST('/build/intakes/{id}/import', params())))
  const stop = () => attempt(() => given(api.POST('/build/intakes/{id}/stop', params())))
  const discard = () => given(api.DELETE('/build/intakes/{id}', params()))
  onUnmounted(() => clearTimeout(timer))

  return {
    intake,
    failed,
    saving,
    load,
    setPlan,
    intoObject,
    planColumn,
    reread,
    check,
    bringIn,
    stop,
    discard,
  }
}
