/** The path of a small chart within so many pixels; null where there is nothing to draw. What is no number is a gap. */
export function sparkline(values: readonly number[], width: number, height: number): string | null {
  const known = values.filter(Number.isFinite);
  if (known.length < 2) return null;
  const [low, high] = known.reduce(([a, b], v) => [Math.min(a, v), Math.max(b, v)], [Infinity, -Infinity]);
  const span = high - low;
  const x = (i: number) => ((i / (values.length - 1)) * (width - 2) + 1).toFixed(1);
  // A value that never changes runs through the middle.
  const y = (v: number) => (span === 0 ? height / 2 : height - 2 - ((v - low) / span) * (height - 4)).toFixed(1);
  let path = '';
  let drawing = false;
  values.forEach((v, i) => {
    if (Number.isFinite(v)) path += `${drawing ? 'L' : 'M'}${x(i)} ${y(v)}`;
    drawing = Number.isFinite(v);
  });
  return path;
}
