import { describe, expect, it } from '@jest/globals';
import { readZip, writeZip } from '../asset/archive/zip.ts';
import { readDocument } from '../document/readDocument.ts';
import { sha256Hex } from '../hash.ts';
import { testWorld } from '../testing/world.ts';
import { UnreadableInput } from '../unreadable.ts';
import { ReleaseManifestSchema } from './manifest.ts';
import { checkRelease, openRelease, packRelease, verifyTree } from './pack.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
/** A package of a crate without a build: what is in it does not matter here. */
async function packed(change: (world: ReturnType<typeof testWorld>) => void = () => {}) {
  const world = testWorld();
  change(world);
  const artefacts = new Map([
    ['maps/hall/map.json', bytes('{}')],
    ['maps/hall/map.glb', bytes('a long map, longer than all others together, so that it is named first')],
  ]);
  return packRelease({ world, artefacts, thumbnail: bytes('png'), readFile: (path) => Promise.resolve(bytes(`file ${path}`)) });
}

describe('the manifest of a package', () => {
  it.each([
    ['name', 'Hall'],
    ['name', 'a'.repeat(65)],
    ['title', ''],
    ['title', 'x'.repeat(121)],
    ['description', 'x'.repeat(8001)],
    ['version', '1.0'],
    ['version', 'v1.0.0'],
    ['thumbnail', 'other.png'],
    ['format', 2],
    ['unknown', true],
  ])('is refused with %s = %j', async (key, value) => {
    const { manifest } = await packed();
    expect(() => readDocument(JSON.stringify(manifest), ReleaseManifestSchema, 'release.json')).not.toThrow();
    expect(() => readDocument(JSON.stringify({ ...manifest, [key]: value }), ReleaseManifestSchema, 'release.json')).toThrow(/release\.json/);
  });
});

describe('what stands against publishing', () => {
  it('blank words count as none; whoever has both has nothing to do', () => {
    const codes = (description: string, authors: string[]) => {
      const world = testWorld();
      Object.assign(world.crate.manifest, { description, authors, licence: 'CC-BY-4.0' });
      return checkRelease(world).map(({ code, place }) => [code, place?.file]);
    };
    expect(codes('  \n', ['Ada'])).toEqual([['release-no-description', 'crate.json']]);
    expect(codes('A hall.', [])).toEqual([['release-no-author', 'crate.json']]);
    expect(codes('A hall.', ['Ada'])).toEqual([]);
  });

  it('a package that is exactly as large as the game takes is taken; one byte more is not, and its largest files are named in order', async () => {
    const { zip } = await packed();
    const limited = (maxBytes: number) => packed((world) => (world.profile = { ...world.profile, package: { ...world.profile.package, maxBytes } }));
    const tooLarge = async (maxBytes: number) => (await limited(maxBytes)).findings.find(({ code }) => code === 'release-too-large');
    expect(await tooLarge(zip.length)).toBeUndefined();
    const finding = (await tooLarge(zip.length - 1))!;
    expect(finding.severity).toBe('blocker');
    const named = [...finding.hint!.matchAll(/\((\d+)\)/g)].map(([, size]) => Number(size));
    expect(named).toHaveLength(3);
    expect(named).toEqual([...named].sort((a, b) => b - a));
  });
});

describe('a package', () => {
  it('carries own files that a map needs, and neither stock files nor what it lacks', async () => {
    const { manifest } = await packed((world) => {
      const { crate, base } = world;
      crate.manifest.materials.push({
        name: 'moss',
        type: 'lit',
        colour: '#446633',
        unitsPerRepeat: 64,
        texture: 'textures/moss.ktx2',
        normal: 'textures/gone.ktx2',
      });
      crate.files.push({ path: 'textures/moss.ktx2', bytes: 3, sha256: 'a'.repeat(64) });
      world.base = {
        ...base,
        files: [{ path: 'textures/stock.ktx2', bytes: 3, sha256: 'b'.repeat(64) }],
        materials: base.materials.map((m) => ({ ...m, texture: 'textures/stock.ktx2' })),
      };
      const [id] = Object.keys(crate.maps.hall.solids);
      crate.maps.hall.solids[id] = { faces: crate.maps.hall.solids[id].faces.map((face) => ({ ...face, material: 'moss' })) };
    });
    expect(manifest.files.map(({ path }) => path).filter((path) => path.startsWith('textures/'))).toEqual(['textures/moss.ktx2']);
  });

  it('whose file has another size or other bytes is refused with its name, in the file and as a place', async () => {
    const { manifest, zip } = await packed();
    const tree = readZip(zip, 'x.zip');
    expect(verifyTree(manifest, tree)).toBeNull();
    const [first] = manifest.files;
    const changed = (record: Partial<typeof first>) =>
      verifyTree({ ...manifest, files: [{ ...first, ...record }, ...manifest.files.slice(1)] }, tree);
    expect(changed({ bytes: first.bytes + 1 })).toBe(`${first.path} does not match its SHA-256.`);
    expect(changed({ sha256: sha256Hex('other') })).toBe(`${first.path} does not match its SHA-256.`);
    const problem = (entries: Map<string, Uint8Array>) => {
      try {
        openRelease(writeZip(entries), 'x.zip');
      } catch (error) {
        if (error instanceof UnreadableInput) return [error.code, error.place?.file];
      }
      return null;
    };
    expect(problem(new Map([...tree].filter(([path]) => path !== 'release.json')))).toEqual(['release-manifest', 'x.zip']);
    expect(problem(new Map([...tree, [first.path, bytes('changed')]]))).toEqual(['release-hash', 'x.zip']);
    expect(problem(tree)).toBeNull();
  });
});
