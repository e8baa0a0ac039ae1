import * as Slider from '@radix-ui/react-slider'
import * as ToggleGroup from '@radix-ui/react-toggle-group'
import { seconds } from '../time'
import { type Player, speeds } from './player'

export function Controls({ player, length }: { player: Player; length: number }) {
  return (
    <div className="flex flex-wrap items-center gap-4 py-3">
      <span className="flex items-center">
        <button type="button" className="quiet" onClick={() => player.step(-1)} title="one sight back (←)">
          ◀◀
        </button>
        <button type="button" className="plate mx-2 w-20" onClick={player.toggle} title="play or pause (space)">
          {player.playing ? 'Pause' : 'Play'}
        </button>
        <button type="button" className="quiet" onClick={() => player.step(1)} title="one sight on (→)">
          ▶▶
        </button>
      </span>
      <ToggleGroup.Root type="single" value={String(player.speed)} onValueChange={(v) => v && player.setSpeed(Number(v))} className="flex" aria-label="speed">
        {speeds.map((s) => (
          <ToggleGroup.Item key={s} value={String(s)} className="px-2 text-sm text-slate data-[state=on]:border-b-2 data-[state=on]:border-bottle data-[state=on]:text-bottle">
            {s}×
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
      <Slider.Root className="relative flex h-6 min-w-40 flex-1 items-center" min={0} max={length} step={length / 10000} value={[player.time]} onValueChange={([t]) => player.seek(t)}>
        <Slider.Track className="h-[2px] grow bg-line">
          <Slider.Range className="absolute h-[2px] bg-bottle" />
        </Slider.Track>
        <Slider.Thumb className="block h-4 w-2 bg-bottle" aria-label="time" />
      </Slider.Root>
      <output className="w-24 text-right font-mono">{seconds(player.time)}</output>
    </div>
  )
}
