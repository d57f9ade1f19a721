import { useEffect, useRef, useState } from 'react';
import { Modal } from 'react-bootstrap';
import { Hearing } from '@violet-crate/core/bed/hear';
import { planLoudness, type LoudnessPlan } from '@violet-crate/core/bed/loudness';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { Bed } from '@violet-crate/core/document/schema';
import { soundWorld } from '@violet-crate/core/map/sound';
import { boxOfPoints } from '@violet-crate/core/math/box3';
import { own } from '@violet-crate/core/own';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { useSoundCells } from '../../sound/useSoundCells.ts';
import { selectWorld } from '../../state/world.ts';
import { useAppSelector } from '../../state/store.ts';
import { useDocument } from '../editing/useDocument.ts';

/** LUFS at both ends of the scale. */
const [SOFT, LOUD] = [-60, -10];
/** Milliseconds of work between two turns of everything else. */
const SLICE = 30;

const colourOf = (value: number): [number, number, number] => {
  const t = Math.min(1, Math.max(0, (value - SOFT) / (LOUD - SOFT)));
  return [40 + 215 * t, 30 + 150 * t * t, 80 + 60 * Math.sin(Math.PI * t)];
};

/** LUFS of all loops of a bed together. */
function loudnessOf(world: CrateWorld, bed: Bed | undefined): number {
  const power = (bed?.loops ?? []).reduce((sum, { sound, volume }) => {
    const record = own(world.crate.manifest.assets, sound) ?? own(world.base.assets, sound);
    return sum + 10 ** ((record?.loudness ?? world.profile.sounds.loudness) / 10) * volume * volume;
  }, 0);
  return power > 0 ? 10 * Math.log10(power) : -Infinity;
}

/** How loud the loops of all beds are at the height of the player's ears over the active band's floor. */
export function LoudnessDialog({ onClose }: { onClose(): void }) {
  const { whole, map, profile, band } = useDocument();
  const world = useAppSelector(selectWorld);
  const cells = useSoundCells(true);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [done, setDone] = useState(0);
  const [plan, setPlan] = useState<LoudnessPlan | null>(null);
  const [told, setTold] = useState('');
  useEffect(() => {
    if (!world) return;
    const corners = Object.values(whole.solids).flatMap((solid) => [shapeOf(solid).box.min, shapeOf(solid).box.max]);
    if (corners.length === 0) return;
    const beds = new Map((map.settings.beds ?? []).map((bed) => [bed.name, loudnessOf(world, bed)]));
    const work = planLoudness(
      new Hearing(soundWorld(world, whole, cells)),
      cells,
      boxOfPoints(corners),
      band.bottom + profile.player.eyeHeight,
      (bed) => beds.get(bed) ?? -Infinity,
    );
    let timer = 0;
    const turn = () => {
      const until = performance.now() + SLICE;
      for (;;) {
        const { done: over, value } = work.next();
        if (over) return setPlan(value);
        if (performance.now() < until) continue;
        setDone(value);
        break;
      }
      timer = window.setTimeout(turn);
    };
    setPlan(null);
    turn();
    return () => clearTimeout(timer);
  }, [world, whole, map.settings.beds, cells, band.bottom, profile]);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !plan) return;
    const { columns, rows, values } = plan;
    const picture = context.createImageData(columns, rows);
    values.forEach((value, i) => {
      const [column, row] = [i % columns, rows - 1 - Math.floor(i / columns)];
      picture.data.set(Number.isNaN(value) ? [0, 0, 0, 0] : [...colourOf(value), 255], (row * columns + column) * 4);
    });
    context.putImageData(picture, 0, 0);
  }, [plan]);
  const tell = (event: React.PointerEvent<HTMLCanvasElement>) => {
    if (!plan) return;
    const box = event.currentTarget.getBoundingClientRect();
    const column = Math.floor(((event.clientX - box.left) / box.width) * plan.columns);
    const row = plan.rows - 1 - Math.floor(((event.clientY - box.top) / box.height) * plan.rows);
    const value = plan.values[row * plan.columns + column];
    const [x, y] = [plan.from[0] + (column + 0.5) * plan.cell, plan.from[1] + (row + 0.5) * plan.cell].map(Math.round);
    setTold(value === undefined || Number.isNaN(value) ? '' : `${x}, ${y}: ${value === -Infinity ? 'silent' : `${value.toFixed(1)} LUFS`}`);
  };
  const loudest = plan && Math.max(...[...plan.values].filter((value) => !Number.isNaN(value)));
  return (
    <Modal show onHide={onClose} size="lg" aria-labelledby="loudness-title">
      <Modal.Header closeButton>
        <h2 id="loudness-title" className="m-0">
          Loudness at ear height, {band.name}
        </h2>
      </Modal.Header>
      <Modal.Body>
        {!plan && <progress value={done} aria-label="Working out how loud it is" className="w-100" />}
        {plan && (
          <canvas
            ref={canvas}
            width={plan.columns}
            height={plan.rows}
            role="img"
            aria-label={`Loudness of the sound beds; at most ${loudest === -Infinity ? 'silent' : `${loudest!.toFixed(1)} LUFS`}`}
            style={{ width: '100%', maxHeight: '60vh', objectFit: 'contain', imageRendering: 'pixelated' }}
            onPointerMove={tell}
          />
        )}
        <div className="d-flex align-items-center gap-2 mt-2 small">
          <span className="mono">{SOFT} LUFS</span>
          <div
            className="flex-grow-1"
            style={{
              height: '0.6rem',
              background: `linear-gradient(to right, ${[0, 0.25, 0.5, 0.75, 1].map((t) => `rgb(${colourOf(SOFT + t * (LOUD - SOFT)).join(' ')})`).join(', ')})`,
            }}
          />
          <span className="mono">{LOUD} LUFS</span>
          <output className="mono ms-2" style={{ minWidth: '11rem' }}>
            {told}
          </output>
        </div>
        {!cells && (
          <p className="faint small mt-2 mb-0">
            <strong>No build with sound areas yet:</strong> sound is shown straight and through walls, not through openings. Build the map.
          </p>
        )}
      </Modal.Body>
    </Modal>
  );
}
