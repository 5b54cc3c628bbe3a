/** Names the page in the browser's tab, what is nearest first. */
export function setTitle(...parts: readonly string[]): void {
  document.title = [...parts.filter(Boolean), 'Neat Patch'].join(' · ')
}
