import type { Part } from '../Part'

/** Words that change with the slides they belong to: the style fades them. */
const wordsPart: Part = (region, listen) => {
  const texts = [...region.querySelectorAll<HTMLElement>('.tln-text')]
  const slides = [...region.querySelectorAll<HTMLElement>('.tln-driven > .tln-slide')]
  const box = texts[0]?.parentElement
  if (!box || !slides[0]) return undefined
  // Slides go round by style where the script does not drive them. The last is the first again.
  let now = slides.findIndex(({ classList }) => classList.contains('tln-on')) % (slides.length - 1)
  const show = (): void =>
    texts.forEach(({ classList, dataset }) =>
      classList.toggle('tln-on', dataset['tlnSlides']!.split(' ').includes(String(now))),
    )
  box.classList.add('tln-told')
  show()
  listen(region, 'tln:slide', (event) => {
    box.style.setProperty('--tln-seconds', `${slides[now]!.dataset['tlnSeconds']!.split(' ')[1]}s`)
    now = (event as CustomEvent<number>).detail
    show()
  })
  return undefined
}

export default wordsPart
