import type { Life, Part } from './part.ts';
import { colourOf, type PointLight } from './lightSource.ts';

function setLit({ item, host }: Life<object>, lit: boolean): void {
  if (item.properties.lit === lit) return;
  item.properties.lit = lit;
  host.emit(item, lit ? 'lit' : 'doused');
}

export const light: Part = {
  id: 'light',
  says: 'gives light while it is lit',
  reads: ['colour', 'intensity', 'reach', 'radius', 'lit'],
  placing: 'ceiling',
  budget: 'lights',
  shine({ properties }, centre) {
    const radius = Number(properties.radius ?? 0);
    const source: PointLight = {
      position: centre,
      colour: colourOf(properties.colour),
      intensity: Number(properties.intensity),
      reach: Number(properties.reach),
      ...(radius > 0 ? { radius } : {}),
    };
    return { kind: 'point', lit: properties.lit === true, light: source };
  },
  actions: {
    light: (life) => setLit(life, true),
    douse: (life) => setLit(life, false),
  },
};
