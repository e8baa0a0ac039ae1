import { Volume2, VolumeX } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import type { Track } from '../types'

// Sound makes what sounders on the bench do heard, once a person has asked for it.
export function Sound({ tracks }: { tracks: Track[] }) {
  const [on, setOn] = useState(false)
  const pitch = tracks.find((t) => t.frames.at(-1)?.state.pitch)?.frames.at(-1)?.state.pitch ?? 0
  const made = useRef<{ context: AudioContext; wave: OscillatorNode; loud: GainNode }>(undefined)
  useEffect(() => {
    if (!on) return
    const context = new AudioContext()
    const wave = new OscillatorNode(context, { type: 'square' })
    const loud = new GainNode(context, { gain: 0 })
    wave.connect(loud).connect(context.destination)
    wave.start()
    made.current = { context, wave, loud }
    return () => {
      made.current = undefined
      void context.close()
    }
  }, [on])
  useEffect(() => {
    const m = made.current
    if (!m) return
    // a short slope in place of a step, which would be heard as a click
    m.loud.gain.setTargetAtTime(pitch ? 0.05 : 0, m.context.currentTime, 0.005)
    if (pitch) m.wave.frequency.setValueAtTime(pitch, m.context.currentTime)
  }, [pitch, on])
  if (!tracks.some((t) => t.geometry.type === 'sound')) return null
  return (
    <button type="button" className="quiet flex items-center gap-2" aria-pressed={on} onClick={() => setOn(!on)}>
      {on ? <Volume2 size={18} aria-hidden /> : <VolumeX size={18} aria-hidden />}
      {on ? 'Sound on' : 'Sound off'}
    </button>
  )
}
