import { Pause, Play, ZoomIn, ZoomOut } from 'lucide-react'
import type { usePlayer } from './usePlayer'

/** Controls are what moves a clip: the scrubber over all of it, steps of a second, a tenth and a frame. */
export function Controls({ player: p, zoomed, onZoom }: { player: ReturnType<typeof usePlayer>; zoomed: boolean; onZoom: () => void }) {
  const length = Number.isFinite(p.length) ? p.length : 0
  return (
    <div className="mt-2 flex flex-col gap-2">
      <input
        type="range"
        className="range range-sm w-full"
        aria-label="Where in the clip"
        min={0}
        max={length}
        step={0.01}
        value={p.at ?? 0}
        disabled={p.at === undefined || length === 0}
        onChange={(e) => p.to(Number(e.target.value))}
      />
      <div className="flex flex-wrap items-center gap-2">
        <button type="button" className="btn btn-sm btn-square" aria-label={p.playing ? 'Pause' : 'Play'} onClick={p.play}>
          {p.playing ? <Pause size={16} aria-hidden /> : <Play size={16} aria-hidden />}
        </button>
        <Step label="Second back" sign="−1 s" onClick={() => p.by(-1)} />
        <Step label="Tenth back" sign="−0.1" onClick={() => p.by(-0.1)} />
        <Step label="Frame back" sign="‹ frame" onClick={() => p.move((f) => f.previous())} />
        <span className="min-w-32 text-center text-3xl font-bold max-sm:order-first max-sm:w-full" role="status" aria-label="Time of the frame">
          {p.at === undefined ? '…' : `${p.at.toFixed(3)} s`}
        </span>
        <Step label="Frame on" sign="frame ›" onClick={() => p.move((f) => f.next())} />
        <Step label="Tenth on" sign="+0.1" onClick={() => p.by(0.1)} />
        <Step label="Second on" sign="+1 s" onClick={() => p.by(1)} />
        <button type="button" className="btn btn-sm btn-square ml-auto" aria-label={zoomed ? 'Zoom out' : 'Zoom in'} onClick={onZoom}>
          {zoomed ? <ZoomOut size={16} aria-hidden /> : <ZoomIn size={16} aria-hidden />}
        </button>
      </div>
    </div>
  )
}

function Step({ label, sign, onClick }: { label: string; sign: string; onClick: () => void }) {
  return (
    <button type="button" className="btn btn-sm" title={label} onClick={onClick}>
      <span className="sr-only">{label}</span>
      <span aria-hidden>{sign}</span>
    </button>
  )
}
