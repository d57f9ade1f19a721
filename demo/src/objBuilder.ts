/** Builds OBJ text from boxes and turned profiles, z up, in metres, with normals and texture coordinates. */

type Point = [number, number, number];

export class ObjBuilder {
  private readonly lines: string[] = [];
  private readonly materials = new Map<string, string>();
  private v = 0;
  private vt = 0;
  private vn = 0;

  constructor(private readonly name: string) {}

  /** @param colour 0..1 sRGB */
  material(name: string, colour: Point): this {
    this.materials.set(name, `newmtl ${name}\nKd ${colour.join(' ')}\n`);
    this.lines.push(`usemtl ${name}`);
    return this;
  }

  private quad(corners: Point[], normals: Point[], uvs: [number, number][]): void {
    for (const p of corners) this.lines.push(`v ${p.map((c) => +c.toFixed(5)).join(' ')}`);
    for (const t of uvs) this.lines.push(`vt ${t.map((c) => +c.toFixed(4)).join(' ')}`);
    for (const n of normals) this.lines.push(`vn ${n.map((c) => +c.toFixed(5)).join(' ')}`);
    this.lines.push(`f ${corners.map((_, i) => `${this.v + i + 1}/${this.vt + i + 1}/${this.vn + i + 1}`).join(' ')}`);
    this.v += corners.length;
    this.vt += uvs.length;
    this.vn += normals.length;
  }

  box(min: Point, max: Point): this {
    const [a, b, c] = min;
    const [d, e, f] = max;
    const side = (corners: Point[], n: Point, w: number, h: number) =>
      this.quad(
        corners,
        [n, n, n, n],
        [
          [0, 0],
          [w, 0],
          [w, h],
          [0, h],
        ],
      );
    side(
      [
        [d, b, c],
        [d, e, c],
        [d, e, f],
        [d, b, f],
      ],
      [1, 0, 0],
      e - b,
      f - c,
    );
    side(
      [
        [a, e, c],
        [a, b, c],
        [a, b, f],
        [a, e, f],
      ],
      [-1, 0, 0],
      e - b,
      f - c,
    );
    side(
      [
        [d, e, c],
        [a, e, c],
        [a, e, f],
        [d, e, f],
      ],
      [0, 1, 0],
      d - a,
      f - c,
    );
    side(
      [
        [a, b, c],
        [d, b, c],
        [d, b, f],
        [a, b, f],
      ],
      [0, -1, 0],
      d - a,
      f - c,
    );
    side(
      [
        [a, b, f],
        [d, b, f],
        [d, e, f],
        [a, e, f],
      ],
      [0, 0, 1],
      d - a,
      e - b,
    );
    side(
      [
        [a, e, c],
        [d, e, c],
        [d, b, c],
        [a, b, c],
      ],
      [0, 0, -1],
      d - a,
      e - b,
    );
    return this;
  }

  /**
   * A profile of (radius, height) pairs turned about an axis through `centre`; `axis` 'z' stands, 'x' and
   * 'y' lie. Shading is smooth round the axis and flat along the profile.
   */
  turned(profile: [number, number][], sides: number, centre: Point = [0, 0, 0], axis: 'x' | 'y' | 'z' = 'z'): this {
    const place = (r: number, angle: number, h: number): Point => {
      const [c, s] = [Math.cos(angle) * r, Math.sin(angle) * r];
      const p: Point = axis === 'z' ? [c, s, h] : axis === 'x' ? [h, c, s] : [s, h, c];
      return [p[0] + centre[0], p[1] + centre[1], p[2] + centre[2]];
    };
    const turn = (nr: number, nh: number, angle: number): Point => {
      const p = place(nr, angle, nh);
      return [p[0] - centre[0], p[1] - centre[1], p[2] - centre[2]];
    };
    for (let k = 0; k + 1 < profile.length; k++) {
      const [r0, h0] = profile[k];
      const [r1, h1] = profile[k + 1];
      const size = Math.hypot(r1 - r0, h1 - h0) || 1;
      const [nr, nh] = [(h1 - h0) / size, (r0 - r1) / size];
      for (let i = 0; i < sides; i++) {
        const [a0, a1] = [(i / sides) * 2 * Math.PI, ((i + 1) / sides) * 2 * Math.PI];
        const [n0, n1] = [turn(nr, nh, a0), turn(nr, nh, a1)];
        const uv = (a: number, h: number): [number, number] => [a / Math.PI, h];
        if (r0 === 0)
          this.quad(
            [place(r1, a1, h1), place(r1, a0, h1), place(0, a0, h0)].reverse() as Point[],
            [n0, n0, n1],
            [uv(a0, h0), uv(a0, h1), uv(a1, h1)],
          );
        else if (r1 === 0) this.quad([place(r0, a0, h0), place(r0, a1, h0), place(0, a0, h1)], [n0, n1, n0], [uv(a0, h0), uv(a1, h0), uv(a0, h1)]);
        else
          this.quad(
            [place(r0, a0, h0), place(r0, a1, h0), place(r1, a1, h1), place(r1, a0, h1)],
            [n0, n1, n1, n0],
            [uv(a0, h0), uv(a1, h0), uv(a1, h1), uv(a0, h1)],
          );
      }
    }
    return this;
  }

  /** The OBJ and its MTL. */
  files(): { obj: string; mtl: string } {
    return {
      obj: `# ${this.name}\nmtllib ${this.name}.mtl\no ${this.name}\n${this.lines.join('\n')}\n`,
      mtl: [...this.materials.values()].join('\n'),
    };
  }
}
