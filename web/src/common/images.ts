/** How often, and after how long, a picture that could not be drawn is asked for again. */
const TRIES = 4
const AFTER = 1200

/**
 * Asks again for small pictures that the server was too busy to draw. An image does not say why it failed, so each is
 * tried a few times; meanwhile, and when that does not help, a torn patch stands in its place (data-broken, in the style).
 */
export function retryImages() {
  const tries = new WeakMap<HTMLImageElement, { src: string; n: number }>()
  window.addEventListener(
    'error',
    (e) => {
      const img = e.target
      if (!(img instanceof HTMLImageElement) || !['api', 'frames'].some((p) => img.src.startsWith(`${location.origin}/${p}/`))) return
      img.dataset.broken = ''
      const src = img.src
      const t = tries.get(img)
      const n = t?.src === src ? t.n + 1 : 1
      tries.set(img, { src, n })
      if (n > TRIES) return
      setTimeout(() => {
        if (img.isConnected && img.src === src) again(img)
      }, AFTER * n)
    },
    true,
  )
  window.addEventListener('load', (e) => e.target instanceof HTMLImageElement && delete e.target.dataset.broken, true)
}

/** A picture in whose place another one stands is not loaded by the browser, so the patch goes first. */
function again(img: HTMLImageElement) {
  delete img.dataset.broken
  img.setAttribute('src', img.src)
}

/** Asks once more for every picture that could not be drawn: what was wrong with it may have been mended. */
export function tryBrokenImages() {
  document.querySelectorAll<HTMLImageElement>('img[data-broken]').forEach(again)
}
