import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import { ASSET_KINDS } from '@violet-crate/core/crate/assetKind';
import { IMPORT_KINDS } from '@violet-crate/core/importing/kind/kinds';
import { main } from './main.ts';

const root = mkdtempSync(join(tmpdir(), 'violet-convert-'));
let out: string;

beforeEach(() => {
  out = '';
  jest.spyOn(process.stdout, 'write').mockImplementation((text) => ((out += String(text)), true));
  jest.spyOn(process.stderr, 'write').mockImplementation(() => true);
});
afterEach(() => void jest.restoreAllMocks());

interface Row {
  input: string;
  kind: string;
  output: string[];
  unchanged?: true;
  cues?: number;
  dimensions?: { units: number[] };
  error?: { code: string; message: string };
}
const rows = () => (JSON.parse(out) as { files: Row[] }).files;
/** A tetrahedron of 32 along each axis. */
const SHAPE = 'o shape\nv 0 0 0\nv 32 0 0\nv 0 32 0\nv 0 0 32\nf 1 3 2\nf 1 2 4\nf 1 4 3\nf 2 3 4\n';
const VTT = 'WEBVTT\n\n00:01.000 --> 00:03.000\nThe sluice opens.\n';

/** A folder with files of these texts. */
function folder(name: string, files: Record<string, string | Uint8Array>): string {
  const dir = join(root, name);
  mkdirSync(dir, { recursive: true });
  for (const [file, content] of Object.entries(files)) writeFileSync(join(dir, file), content);
  return dir;
}
async function convert(...given: string[]): Promise<number> {
  out = '';
  return main(['convert', ...given, '--profile', 'brinewick', '--threads', '1', '--json']);
}

describe('crate convert', () => {
  const FLAGS = ASSET_KINDS.flatMap((kind) =>
    IMPORT_KINDS[kind].options.flatMap((option) => (option.flag ? [[kind, option.flag, option.rule.kind]] : [])),
  );
  it.each(FLAGS.filter(([, , rule]) => rule !== 'text'))(
    '%s: --%s refuses what is none of its values before anything is read',
    async (_kind, flag) => {
      expect(await convert('no-such-file.obj', '--out', join(root, 'none'), `--${flag}`, '~')).toBe(2);
      expect((JSON.parse(out) as { error: { message: string } }).error.message).toMatch(new RegExp(`^--${flag} has `));
      expect(existsSync(join(root, 'none'))).toBe(false);
    },
  );

  it('every flag is in the help with its values', async () => {
    await main(['convert', '--help']);
    for (const [kind, flag] of FLAGS) expect(out).toMatch(new RegExp(`^  --${flag} VALUE +${kind}: .+\\(.+\\)$`, 'm'));
  });

  it('a folder: what can be read is written, what cannot is a row with its reason', async () => {
    const dir = folder('mixed', { 'box.obj': SHAPE, 'bad.obj': 'v 0 0 0\nf 1 2 3\n', 'rush.vtt': VTT, 'note.txt': 'nothing' });
    const to = join(root, 'mixed-out');
    expect(await convert(dir, '--out', to)).toBe(1);
    const of = (name: string) => rows().find(({ input }) => input === `mixed/${name}`)!;
    expect(of('bad.obj').error!.message).toContain('bad.obj:2');
    expect(of('rush.vtt')).toMatchObject({ kind: 'subtitle', cues: 1 });
    expect(of('box.obj').kind).toBe('model');
    expect(readdirSync(to).sort()).toEqual(['box.glb', 'rush.vtt']);
    expect((JSON.parse(out) as { skipped: { file: string }[] }).skipped.map(({ file }) => file)).toEqual(['mixed/note.txt']);
  });

  it('units scale, and an OBJ is written beside the GLB when it is asked for', async () => {
    const dir = folder('units', { 'box.obj': SHAPE });
    expect(await convert(join(dir, 'box.obj'), '--out', join(root, 'cm'), '--unit', 'cm', '--format', 'obj')).toBe(0);
    const [small] = rows();
    expect(await convert(join(dir, 'box.obj'), '--out', join(root, 'm'), '--unit', 'm')).toBe(0);
    const [large] = rows();
    large.dimensions!.units.forEach((v, axis) => expect(v / small.dimensions!.units[axis]).toBeCloseTo(100, 4));
    expect(readdirSync(join(root, 'cm')).sort()).toEqual(['box.glb', 'box.mtl', 'box.obj']);
  });

  it('into a crate: entered with its source, unchanged the second time, and a taken name is settled as told', async () => {
    const crate = join(root, 'quay');
    expect(await main(['new', 'quay', '--profile', 'brinewick', '--dir', crate])).toBe(0);
    const dir = folder('sources', { 'box.obj': SHAPE, 'rush.vtt': VTT });
    expect(await convert(dir, '--out', crate)).toBe(0);
    const assets = () => Object.keys((JSON.parse(readFileSync(join(crate, 'crate.json'), 'utf8')) as { assets: object }).assets).sort();
    expect(assets()).toEqual(['models/box.glb', 'subtitles/rush.vtt']);
    expect(existsSync(join(crate, 'sources/models/box.obj'))).toBe(true);
    expect(await convert(dir, '--out', crate)).toBe(0);
    expect(rows().map(({ unchanged }) => unchanged)).toEqual([true, true]);
    // Another file of that name.
    const other = folder('others', { 'box.obj': SHAPE.replace(/^o .*$/m, 'o other') });
    expect(await convert(other, '--out', crate, '--clash', 'rename')).toBe(0);
    expect(assets()).toEqual(['models/box.glb', 'models/box_2.glb', 'subtitles/rush.vtt']);
  });

  it('archives are opened, and what is in them is told by its path', async () => {
    const dir = folder('zipped', { 'pack.zip': writeZip(new Map([['props/box.obj', new TextEncoder().encode(SHAPE)]])) });
    expect(await convert(join(dir, 'pack.zip'), '--out', join(root, 'unzipped'))).toBe(0);
    expect(rows().map(({ input, kind }) => [input, kind])).toEqual([['pack/props/box.obj', 'model']]);
  });

  it.each([
    [['--threads', '0'], /--threads has to be a number from 1 to 64/],
    [['--clash', 'burn'], /--clash has to be one of rename, replace, keep/],
    [['--material-type', 'cheese'], /--material-type has to be one of/],
  ])('%j is refused', async (more, message) => {
    out = '';
    const code = await main(['convert', 'x.obj', '--profile', 'brinewick', '--out', join(root, 'none'), '--json', ...more]);
    expect([code, (JSON.parse(out) as { error: { message: string } }).error.message]).toEqual([2, expect.stringMatching(message)]);
  });
});
