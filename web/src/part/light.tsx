import { Color, PointLight } from 'three';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { intensityForReach, readableReach } from '@violet-crate/core/map/lights';
import { modelOf } from '@violet-crate/core/map/objectBox';
import { boxCentre } from '@violet-crate/core/math/box3';
import { linearOfHex } from '@violet-crate/core/math/srgb';
import type { MapObject } from '@violet-crate/core/document/schema';
import type { Profile } from '@violet-crate/core/profile/schema';
import { NumberField } from '../common/fields.tsx';
import { drawLabel } from '../common/sheet.ts';
import type { Look } from './look.ts';

const reachOf = ({ properties }: MapObject, profile: Profile): number =>
  readableReach(Number(properties.intensity ?? 0), Number(properties.reach ?? 0), profile.unit.metres);

/** How far below its top a lamp glows that is shown as a model, in units. */
const BELOW_TOP = 4;

export const light: Look = {
  colour: 'warm',
  body: { colour: ({ properties }) => String(properties.colour ?? ''), glows: true },
  mark(context) {
    context.arc(0, 0, 3, 0, 2 * Math.PI);
    context.fill();
    context.beginPath();
    for (let i = 0; i < 6; i++) {
      const a = (i / 6) * 2 * Math.PI;
      context.moveTo(Math.cos(a) * 5, Math.sin(a) * 5);
      context.lineTo(Math.cos(a) * 8, Math.sin(a) * 8);
    }
    context.stroke();
  },
  /** The ring within which it is readable, with its radius. */
  plan({ context, x, y, scale, object, profile, colours }) {
    const reach = reachOf(object, profile);
    context.strokeStyle = colours.warm;
    context.globalAlpha = 0.7;
    context.setLineDash([2, 5]);
    context.beginPath();
    context.arc(x, y, reach * scale, 0, 2 * Math.PI);
    context.stroke();
    context.setLineDash([]);
    context.globalAlpha = 1;
    const aside = reach * scale * Math.SQRT1_2;
    drawLabel(context, `readable to ${Math.round(reach)}`, x + aside + 4, y - aside, colours.warm, colours.ground);
  },
  Fields({ object, profile, onChange }) {
    return (
      <NumberField
        label="Readable to"
        unit={profile.unit.plural}
        value={Math.round(reachOf(object, profile))}
        min={1}
        onCommit={(distance) => {
          const intensity = Math.round(intensityForReach(distance, profile.unit.metres) * 100) / 100;
          onChange({ properties: { ...object.properties, intensity } }, `change intensity of ${object.name}`);
        }}
      />
    );
  },
  trialExtra({ item, box, profile, metres }) {
    const { object, properties } = item;
    const centre = boxCentre(box);
    const rest = modelOf(profile, object) ? ([centre[0], centre[1], box.max[2] - BELOW_TOP] as const) : centre;
    const node = new PointLight(new Color(...linearOfHex(String(properties.colour))), 0, Number(properties.reach) * metres || 0, 2);
    node.position.set(...toGltf([...rest], metres));
    return {
      node,
      rest: [...rest],
      update(now) {
        // Lamps lit at the start are in the lightmap already.
        node.intensity = now.properties.lit === true && object.properties.lit !== true ? Number(now.properties.intensity) : 0;
      },
    };
  },
};
