import { useQuery } from '@tanstack/react-query'
import { get } from '../api'
import { brief } from '../time'
import type { Track } from '../types'
import { Display } from './Display'

// useROM gives the dots of the character LCD's characters, where there is one.
export function useROM(tracks: Track[] = []) {
  return useQuery({
    queryKey: ['rom'],
    staleTime: Infinity,
    queryFn: () => get<number[][]>('/character-rom'),
    enabled: tracks.some((t) => t.geometry.grid),
  }).data
}

// Strip is what a display showed, frame by frame; what does not fit is told as a number.
export function Strip({ track, rom, most = 14 }: { track?: Track; rom?: number[][]; most?: number }) {
  return (
    <span
      className="flex min-w-0 grow gap-1 overflow-x-auto"
      tabIndex={0}
      role="img"
      aria-label={
        track
          ? `${track.display} showed ${track.frames
              .slice(0, most)
              .map((f) => f.text)
              .join(', ')}`
          : 'film strip'
      }
    >
      {track?.frames.slice(0, most).map((f, i) => (
        <span
          key={i}
          className={`shrink-0 ${track.geometry.width > 250 ? 'w-40' : 'w-14'}`}
          title={`${f.text} for ${brief(f.to - f.from)}`}
        >
          <span className="block bg-well p-1">
            <Display geometry={track.geometry} state={f.state} custom={track.custom} rom={rom} label={f.text} />
          </span>
          <span className="block truncate text-center text-[13px] text-slate">{brief(f.to - f.from)}</span>
        </span>
      ))}
      {track && track.frames.length > most && (
        <span className="self-center text-sm whitespace-nowrap text-slate">and {track.frames.length - most} more</span>
      )}
    </span>
  )
}

// Strips are those of all displays, with groups in the place of their members.
export function Strips({ tracks, rom }: { tracks: Track[]; rom?: number[][] }) {
  return tracks
    .filter((track) => !tracks.some((group) => group.of?.includes(track.display)))
    .map((track) => (
      <div key={track.display} className="flex items-center gap-3 py-1">
        <span className="w-24 shrink-0 truncate text-sm text-slate" title={track.display}>
          {track.display}
        </span>
        <Strip track={track} rom={rom} />
      </div>
    ))
}
