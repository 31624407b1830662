/** Fields come with the card or the window that was just opened; this long they are waited for, in ms. */
const WAIT_MS = 1500

/** Brings the input of that label into view and takes the keyboard there, once it is on the page. `within`: an element that holds it. */
export function goToField(label: string, within = 'body'): void {
  const began = performance.now()
  const look = () => {
    const roots = [...document.querySelectorAll(within)]
    const named = roots.flatMap((r) => [...r.querySelectorAll<HTMLElement>('[aria-label]')])
    const name = (e: HTMLElement) => e.getAttribute('aria-label') ?? ''
    // Three numbers are called by their axis behind the label.
    const field = named.find((e) => name(e) === label) ?? named.find((e) => name(e).startsWith(`${label} `))
    if (field) {
      field.scrollIntoView({ block: 'center' })
      field.focus()
      return
    }
    if (performance.now() - began < WAIT_MS) requestAnimationFrame(look)
  }
  requestAnimationFrame(look)
}
