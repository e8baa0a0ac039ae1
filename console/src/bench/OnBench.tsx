import { type CSSProperties, memo } from 'react'
import type { Frame, Track } from '../types'
import { Display } from './Display'

// onTheWall has displays in the order of the bench, and those that are read as one in the order in which they are read.
export function onTheWall(tracks: Track[]) {
  const out = tracks.filter((t) => !t.of)
  for (const { of } of tracks) {
    const places = out.flatMap((t, i) => (of?.includes(t.display) ? [i] : []))
    const members = of?.flatMap((name) => out.filter((t) => t.display === name)) ?? []
    members.forEach((t, i) => (out[places[i]] = t))
  }
  return out
}

// lit is how brightly a display is lit from behind: fully where no light of its own is there for that. Without it, it is
// hard to read.
export function lit(tracks: Track[], track: Track, frame: (t: Track) => Frame | undefined) {
  const light = tracks.find((b) => b.display === `${track.display}-backlight`)
  if (!light) return 1
  const state = frame(light)?.state
  return state?.lights?.includes('1') ? Math.min(1, (state.levels?.[0] ?? 255) / 255) : 0
}

// OnBench is a display as it hangs on the wall, with its name and how it is driven.
export const OnBench = memo(function OnBench({
  track,
  frame,
  lit = 1,
  rom,
}: {
  track: Track
  frame?: Frame
  lit?: number // how brightly from behind, 0 to 1
  rom?: number[][]
}) {
  const wide =
    track.geometry.width > 250
      ? 'w-full'
      : Math.max(track.geometry.width, track.geometry.height) < 100
        ? 'w-20'
        : 'w-36'
  const { refresh, ghost } = track.quality ?? {}
  return (
    <figure
      className={`${wide} ${lit < 1 ? '[&>svg]:brightness-(--lit)' : ''}`}
      style={{ '--lit': 0.35 + 0.65 * lit } as CSSProperties}
    >
      <Display
        geometry={track.geometry}
        state={frame?.state}
        custom={track.custom}
        rom={rom}
        label={`${track.display} shows ${frame?.text ?? 'nothing'}`}
      />
      <figcaption className="text-center text-sm text-[#c9c0b2]">
        {track.display}
        {refresh ? `, ${refresh} Hz` : ''}
        {ghost ? `, ghosts ${ghost} %` : ''}
      </figcaption>
    </figure>
  )
})
