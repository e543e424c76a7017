// What a first reader meets on a topline: its height, what can be pressed in it at rest, its notes.
// All of it is drawn first, as printing does.
const places = () => [...document.querySelectorAll('section.question')]
for (let tries = 0; tries < 100 && (tries < 3 || places().some((s) => s.classList.contains('waiting'))); tries++) {
  window.dispatchEvent(new Event('beforeprint'))
  await wait(100)
}
await document.fonts.ready
document.activeElement?.blur()
await wait(500)
const seen = (element) => {
  if (element.getClientRects().length === 0 || element.closest('.visually-hidden')) return false
  for (let e = element; e; e = e.parentElement) {
    const style = getComputedStyle(e)
    if (style.opacity === '0' || style.visibility === 'hidden') return false
  }
  return true
}
const all = (selector) => places().flatMap((s) => [...s.querySelectorAll(selector)]).filter(seen)
const pressable = all('a[href], button, summary, select, input, [role=button]')
/** A text that is changed where it stands looks as any other text until the pointer is on it. */
const texts = pressable.filter((e) => e.matches('button.text') && getComputedStyle(e).borderBottomColor === 'rgba(0, 0, 0, 0)')
const n = places().length
const per = (count) => (count / n).toFixed(1)
return [
  `questions ${n}`,
  `height ${document.documentElement.scrollHeight} px, ${(document.documentElement.scrollHeight / window.innerHeight / n * 10).toFixed(1)} screens per ten questions`,
  `to press ${pressable.length - texts.length}, ${per(pressable.length - texts.length)} per question`,
  `texts that are changed where they stand ${texts.length}, ${per(texts.length)} per question`,
  `margin notes ${all('.note').length}`,
].join('\n')
