/** A sphere of quads with normals and texture coordinates as OBJ: 2 × (rings - 2) × sides triangles. */
export function sphereObj(rings, sides) {
  const lines = ['o sphere'];
  for (let i = 0; i <= rings; i++) {
    for (let j = 0; j <= sides; j++) {
      const [a, b] = [(i / rings) * Math.PI, (j / sides) * 2 * Math.PI];
      const p = [Math.sin(a) * Math.cos(b), Math.sin(a) * Math.sin(b), Math.cos(a)].map((v) => v.toFixed(6)).join(' ');
      lines.push(`v ${p}`, `vt ${(j / sides).toFixed(5)} ${(i / rings).toFixed(5)}`, `vn ${p}`);
    }
  }
  const at = (i, j) => i * (sides + 1) + j + 1;
  for (let i = 1; i < rings - 1; i++) {
    for (let j = 0; j < sides; j++)
      lines.push(`f ${[at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)].map((k) => `${k}/${k}/${k}`).join(' ')}`);
  }
  return lines.join('\n');
}
