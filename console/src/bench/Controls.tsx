import * as Slider from '@radix-ui/react-slider'
import * as ToggleGroup from '@radix-ui/react-toggle-group'
import { Eye, EyeOff, Pause, Play, StepBack, StepForward } from 'lucide-react'
import { seconds } from '../time'
import { type Player, slow, speeds, useTime } from './player'

interface Props {
  player: Player
  length: number
  eye: boolean // on
  setEye?: (on: boolean) => void // where it can be switched off
}

// Controls move the time, and switch as driven: then the displays show what is driven at this very moment.
export function Controls({ player, length, eye, setEye }: Props) {
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1 py-3">
      <Steps playing={player.playing} step={player.step} toggle={player.toggle} eye={eye} />
      <Speeds speed={player.speed} setSpeed={player.setSpeed} eye={eye} setEye={setEye} />
      <Time player={player} length={length} eye={eye} />
    </div>
  )
}

// Time is all of it that changes while time continues.
function Time({ player: { clock, seek }, length, eye }: Props) {
  const time = useTime(clock)
  return (
    <>
      <Slider.Root
        className="relative flex h-6 min-w-40 flex-1 items-center"
        min={0}
        max={length}
        step={length / 10000}
        value={[time]}
        onValueChange={([t]) => seek(t)}
      >
        <Slider.Track className="h-[2px] grow bg-line">
          <Slider.Range className="absolute h-[2px] bg-bottle" />
        </Slider.Track>
        <Slider.Thumb className="block h-4 w-2 bg-bottle" aria-label="time" />
      </Slider.Root>
      <output className="w-32 text-right font-mono">{eye ? seconds(time) : `${(time / 1e6).toFixed(1)} µs`}</output>
    </>
  )
}

function Steps({ playing, step, toggle, eye }: Pick<Player, 'playing' | 'step' | 'toggle'> & { eye: boolean }) {
  return (
    <span className="flex items-center">
      <button
        type="button"
        className="quiet"
        onClick={() => step(-1)}
        aria-label={eye ? 'previous state' : 'previous change'}
        title="back (←)"
      >
        <StepBack size={18} />
      </button>
      <button
        type="button"
        className="plate mx-2 flex w-24 items-center justify-center gap-2"
        onClick={toggle}
        title="play or pause (space)"
      >
        {playing ? <Pause size={16} aria-hidden /> : <Play size={16} aria-hidden />}
        {playing ? 'Pause' : 'Play'}
      </button>
      <button
        type="button"
        className="quiet"
        onClick={() => step(1)}
        aria-label={eye ? 'next state' : 'next change'}
        title="on (→)"
      >
        <StepForward size={18} />
      </button>
    </span>
  )
}

function Speeds({ speed, setSpeed, eye, setEye }: Pick<Player, 'speed' | 'setSpeed'> & Pick<Props, 'eye' | 'setEye'>) {
  return (
    <>
      <ToggleGroup.Root
        type="single"
        value={String(speed)}
        onValueChange={(v) => v && setSpeed(Number(v))}
        className="flex"
        aria-label="speed"
      >
        {(eye ? speeds : slow).map((s) => (
          <ToggleGroup.Item
            key={s}
            value={String(s)}
            className="px-2 text-sm text-slate data-[state=on]:border-b-2 data-[state=on]:border-bottle data-[state=on]:text-bottle"
          >
            {s < 0.01 ? `1/${Math.round(1 / s / 1000)}k` : s}×
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
      {setEye && (
        <button
          type="button"
          className="quiet flex items-center gap-2"
          aria-pressed={!eye}
          onClick={() => setEye(!eye)}
          title="as seen: what a person sees; as driven: what is driven at this moment, with pins"
        >
          {eye ? <Eye size={18} aria-hidden /> : <EyeOff size={18} aria-hidden />}
          {eye ? 'as seen' : 'as driven'}
        </button>
      )}
    </>
  )
}
