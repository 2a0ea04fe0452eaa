import type { Router } from 'vue-router'
import { ref } from 'vue'
import { unsaved } from '@/surface/unsaved'

/** Where to go once the page was loaded anew, because a piece of it is of a newer build by now. */
export const newer = ref('')

const tried = 'plainpath.newer'
/** A page is loaded anew by itself once within so many milliseconds: what fails again is no older build. */
const once = 60_000

/**
 * A piece of the application that cannot be loaded is of a build that is gone, or the server is. The
 * page is loaded anew, once; where something is not saved yet, the person says when.
 */
export function loadAnew(router: Router): void {
  let to = location.pathname
  router.beforeEach((next) => {
    to = next.fullPath
  })
  const anew = () => {
    const last = Number(sessionStorage.getItem(tried) ?? 0)
    if (unsaved() || Date.now() - last < once) {
      newer.value = to
      return
    }
    sessionStorage.setItem(tried, String(Date.now()))
    location.assign(to)
  }
  window.addEventListener('vite:preloadError', (event) => {
    event.preventDefault()
    anew()
  })
}
