/**
 * How a part of `core/src/part/` looks and is edited: on the sheets, in the perspective, in the inspector and in the
 * test run. One file per part, of the same name; a part that needs nothing special has none.
 */

import type { ComponentType } from 'react';
import type { Object3D, Texture } from 'three';
import type { MapObject } from '@violet-crate/core/document/schema';
import type { Box3 } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { ShownObject } from '@violet-crate/core/trial/apart';

export interface MarkColours {
  ink: string;
  ground: string;
  violet: string;
  warm: string;
  clear: string;
}

/** A place on the plan at which something is drawn. */
export interface PlanPen {
  context: CanvasRenderingContext2D;
  /** In pixels; `scale` is pixels per unit. */
  x: number;
  y: number;
  scale: number;
  profile: Profile;
  object: MapObject;
  colours: MarkColours;
}

/** Fields of the inspector for one object; `onChange` takes what becomes of it and a name for the edit. */
export interface PartFieldsProps {
  object: MapObject;
  profile: Profile;
  onChange(change: Partial<MapObject>, name: string): void;
}

/** What a part needs to show itself in the test run. */
export interface TrialThing {
  item: ShownObject;
  /** Its space where it is at rest. */
  box: Box3;
  profile: Profile;
  metres: number;
  texture(material: unknown): Promise<Texture | null>;
  model(path: string): Promise<Object3D | null>;
  /** The colour of the light at a point, for what the lightmap does not cover. */
  brightness(at: Vec3): [number, number, number];
}

/** A node of the test run, and the point of the map that it stands at while nothing has moved. */
export interface TrialBody {
  node: Object3D;
  rest: Vec3;
  /** Puts it where it is now; without this it goes and turns with the object, and is hidden once that is gone. */
  update?(item: ShownObject): void;
}

export interface Look {
  /** Colour of its mark and frame. */
  colour?: 'warm' | 'clear';
  /** Draws its mark about the origin, colours being set; `angle` is where it looks, in the picture, null from the side. */
  mark?(context: CanvasRenderingContext2D, angle: number | null): void;
  /** Its extent is drawn on the plan. */
  frame?: 'line' | 'dashed';
  /** An arrow on the plan says where it points. */
  points?: true;
  /** What else the plan shows of it while it is chosen. */
  plan?(pen: PlanPen): void;
  /** Its box in the perspective, where no model is shown instead; null for edges alone. */
  body?: { colour?(object: MapObject): string; glows?: true; opacity?: number } | null;
  /** Shown, too, when one looks at the map as the game does. */
  inGame?: true;
  Fields?: ComponentType<PartFieldsProps>;
  /** Its body in the test run. */
  trialBody?(thing: TrialThing): Promise<TrialBody | null>;
  /** What it adds to the test run beside a body. */
  trialExtra?(thing: TrialThing): TrialBody;
}
