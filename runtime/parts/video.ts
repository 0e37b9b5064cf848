import type { Part } from '../Part'

/** The clip of a region: it plays while the region does. */
const videoPart: Part = (region, listen, update, fail, tell) => {
  const video = region.querySelector<HTMLVideoElement>('.tln-video')
  if (!video) return undefined
  // Which of the clip's files this window is for. Wider screens come first among the sources.
  const sources = (): HTMLSourceElement[] => [...video.querySelectorAll('source')]
  /** Place of the first source whose window this is; -1: none. */
  const fitting = (): number =>
    sources().findIndex(({ media }) => !media || matchMedia(media).matches)
  let chosen = fitting()
  listen(video, 'ended', update)
  listen(video, 'playing', () => tell('play'))
  listen(video, 'pause', () => tell('pause'))
  listen(video, 'error', fail)
  // A source fails alone; the clip fails with the last of them.
  for (const source of sources())
    listen(source, 'error', () => {
      if (video.networkState === HTMLMediaElement.NETWORK_NO_SOURCE) fail()
    })
  // No window of its own and no casting: it is a background. (As attributes they are not yet valid
  // in every checker of markup.)
  video.disablePictureInPicture = true
  video.disableRemotePlayback = true
  return {
    fits: () => fitting() >= 0,
    // Takes the file of a wider screen where that is the window's now; a narrower one would be no
    // gain.
    choose() {
      const now = fitting()
      if (now < 0 || (chosen >= 0 && now >= chosen)) return false
      const files = sources()
      // Two screens may share a file: it plays on.
      const other = files[now]!.src !== files[chosen]?.src
      const at = video.currentTime
      chosen = now
      if (other) video.load()
      if (other && at > 0) video.currentTime = at
      return true
    },
    ended: () => video.ended,
    play() {
      if (!video.paused || video.ended) return
      // The attribute alone does not always mute a clip that was put in by script.
      video.muted = true
      video.preload = 'auto'
      // Loading another file returns to the rate that is the clip's default.
      video.defaultPlaybackRate = video.playbackRate = Number(
        video.parentElement!.dataset['tlnPlaybackRate'] ?? 1,
      )
      video.play()?.catch(fail)
    },
    pause: () => video.pause(),
  }
}

export default videoPart
