import { onUnmounted, ref, shallowRef } from 'vue'
import { api, requestKey, titleOf } from '@/api/client'
import type { ColumnWish, Intake, IntakePlan, IntakeSettings } from '@/api/types'
import { sendParts } from '@/api/upload'

/** Sends files one after the other. */
export async function upload(
  space: string,
  files: File[],
  told: (sent: number, all: number) => void,
): Promise<Intake> {
  const all = files.reduce((sum, f) => sum + f.size, 0)
  let intake = await api.post<Intake>(
    `/build/spaces/${space}/intakes`,
    { files: files.map((f) => ({ name: f.name, size: f.size })) },
    requestKey(),
  )
  let sent = 0
  for (const [i, file] of files.entries()) {
    const where = (part: number) => `/build/intakes/${intake.id}/files/${i}/parts/${part}`
    intake = (await sendParts<Intake>(file, where, (n) => told((sent += n), all))) ?? intake
  }
  return intake
}

/** One intake as it goes on. Work in the background is followed until it is done. */
export function useIntake(id: () => string) {
  const intake = shallowRef<Intake | null>(null)
  const failed = ref('')
  const saving = ref(false)
  let timer: ReturnType<typeof setTimeout> | undefined
  const address = (tail = '') => `/build/intakes/${id()}${tail}`
  const working = (i: Intake) => ['uploading', 'analysing', 'checking', 'importing'].includes(i.state)

  function take(next: Intake): void {
    intake.value = next
    clearTimeout(timer)
    if (working(next)) timer = setTimeout(load, 400)
  }

  async function load(): Promise<void> {
    await attempt(() => api.get<Intake>(address()))
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

  async function plan(tail: string, body: object): Promise<void> {
    saving.value = true
    await attempt(() => api.put<Intake>(address(tail), body))
    saving.value = false
  }

  /** The plan as it is to be; what is wrong with it comes back at once. */
  async function setPlan(next: IntakePlan): Promise<void> {
    if (intake.value) intake.value = { ...intake.value, plan: next }
    await plan('/plan', next)
  }

  /** A sheet goes into another object, or a new one when the key is empty; it is planned anew. */
  const intoObject = (sheet: number, object: string) => plan(`/sheets/${sheet}/object`, { object })
  const planColumn = (sheet: number, column: number, wish: ColumnWish) =>
    plan(`/sheets/${sheet}/columns/${column}`, wish)

  /** A file is read anew as it is set. */
  const reread = (file: number, settings: IntakeSettings) => plan(`/files/${file}/settings`, settings)

  const check = () => attempt(() => api.post<Intake>(address('/check'), {}))
  const bringIn = () => attempt(() => api.post<Intake>(address('/import'), {}))
  const stop = () => attempt(() => api.post<Intake>(address('/stop'), {}))
  const discard = () => api.remove(address())
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
