/** Icons of the shapes of `core/src/solid/shapes.ts`, by id. */
export const SHAPE_ICONS: Record<string, string> = {
  block: 'square-fill',
  wedge: 'triangle-half',
  ramp: 'graph-up-arrow',
  cylinder: 'database-fill',
  cone: 'triangle-fill',
  sphere: 'circle-fill',
  arch: 'rainbow',
  stair: 'bar-chart-steps',
  arc: 'arrow-90deg-up',
  spiral: 'arrow-repeat',
  pane: 'file-fill',
  room: 'bounding-box-circles',
};
