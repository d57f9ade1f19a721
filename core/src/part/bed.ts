import type { Part } from './part.ts';

/** What is heard of it is worked out by whoever listens: `core/src/bed/`. */
export const bed: Part = {
  id: 'bed',
  says: 'a space in which a sound bed is heard, and beyond it through openings',
  reads: ['bed', 'size', 'near', 'priority', 'reverb'],
  floats: true,
  hollow: true,
  carriesNothing: true,
  upright: true,
  needs: {
    bed: {
      code: 'bed-empty',
      lacks: 'lets one hear nothing: it has no bed',
      hint: 'Choose one in the inspector; beds are made in the inspector of the map.',
    },
  },
};
