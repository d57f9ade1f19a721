import { useState } from 'react';
import { Field } from '../common/fields.tsx';
import { useAppSelector } from '../state/store.ts';
import { skyEstimate } from '../three/skyEstimate.ts';
import type { Look, PartFieldsProps } from './look.ts';

export const sun: Look = { points: true, Fields: FromSky };

/** Takes the sun's place and colour from the picture of a sky. */
function FromSky({ object, onChange }: PartFieldsProps) {
  const view = useAppSelector((s) => s.crate.view)!;
  const profileId = useAppSelector((s) => s.crate.profile)!.id;
  const base = useAppSelector((s) => s.crate.base)!;
  const [problem, setProblem] = useState('');
  const skies = [...view.manifest.materials, ...base.materials].filter((m) => m.type === 'sky' && m.texture);
  const take = async (name: string) => {
    const material = skies.find((m) => m.name === name)!;
    const found = await skyEstimate({ view, profileId }, material.texture!);
    setProblem(found ? '' : `The picture of ${name} could not be read.`);
    if (!found) return;
    const properties = { ...object.properties, colour: found.colour, height: Math.max(1, Math.round(found.height)) };
    onChange({ turn: Math.round(found.turn), properties }, 'sun from the sky');
  };
  if (skies.length === 0) return <div className="faint small">With a sky picture in the crate, the sun’s place and colour can be taken from it.</div>;
  return (
    <>
      <Field label="From the sky" id="sun-sky">
        <select id="sun-sky" className="form-select" value="" onChange={(e) => e.target.value && void take(e.target.value)}>
          <option value="">take from …</option>
          {skies.map((m) => (
            <option key={m.name}>{m.name}</option>
          ))}
        </select>
      </Field>
      {problem && (
        <div className="severity blocker small text-wrap" role="alert">
          {problem}
        </div>
      )}
    </>
  );
}
