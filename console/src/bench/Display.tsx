import { type ComponentType, memo } from 'react'
import type { Geometry, Track } from '../types'
import { Characters } from './display/Characters'
import type { Drawn } from './display/drawn'
import { Lights } from './display/Lights'
import { Lines } from './display/Lines'
import { Pixels } from './display/Pixels'
import { Sounder } from './display/Sounder'

// Display types that are not drawn as their lights; core/display has a folder for each, render/testdata what each looks like.
const drawings: Partial<Record<Geometry['type'], ComponentType<Drawn>>> = {
  text: Characters,
  pixels: Pixels,
  sound: Sounder,
  lines: Lines,
}

interface Props extends Drawn {
  label: string
}

// Display draws a display as it looks, in its dark well: from the drawing that the reel carries.
export const Display = memo(function Display({ geometry, state, custom, rom, label }: Props) {
  const Drawing = drawings[geometry.type] ?? Lights
  return (
    <svg viewBox={`0 0 ${geometry.width} ${geometry.height}`} role="img" aria-label={label} className="h-full w-full">
      <Drawing geometry={geometry} state={state} custom={custom} rom={rom} />
    </svg>
  )
})

// The frame of a track that is shown at a moment.
export function frameAt(track: Pick<Track, 'frames'>, t: number) {
  const { frames } = track
  let low = 0
  let high = frames.length - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (frames[middle].from <= t) low = middle
    else high = middle - 1
  }
  return frames[low]
}
