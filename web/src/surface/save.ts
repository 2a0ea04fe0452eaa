/** Has the browser save what stands at an address as a file. */
export function save(address: string): void {
  Object.assign(document.createElement('a'), { href: address, download: '' }).click()
}
