import { memo } from 'react'
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

// OnBench is a display as it hangs on the wall, with its name and how it is driven.
export const OnBench = memo(function OnBench({
  track,
  frame,
  unlit,
  rom,
}: {
  track: Track
  frame?: Frame
  unlit?: boolean
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
    <figure className={`${wide} ${unlit ? '[&>svg]:brightness-[0.35]' : ''}`}>
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
