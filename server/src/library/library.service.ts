import { Injectable } from '@nestjs/common';
import { assetKindOf } from '@violet-crate/core/crate/assetKind';
import { isScript } from '@violet-crate/core/crate/contents';
import { CrateMaterialSchema, type CrateMaterial } from '@violet-crate/core/crate/manifest';
import { nameProblem } from '@violet-crate/core/crate/naming';
import { renamedPath, renameFunction } from '@violet-crate/core/library/rename';
import { MATERIAL_PICTURES, usageOf, type Use } from '@violet-crate/core/library/usage';
import { planLinkChange } from '@violet-crate/core/link/change';
import { globalFunctions } from '@violet-crate/core/script/check';
import { luaNameProblem } from '@violet-crate/core/script/names';
import { Value } from '@sinclair/typebox/value';
import { CratesService } from '../crates/crates.service.ts';
import { notFound, Problem } from '../http/problem.ts';
import { CrateEditsService } from '../links/crateEdits.service.ts';

const MATERIAL = 'material:';

/** What is done to assets and materials that are in a crate. The game's own are out of its reach: it writes crates only. */
@Injectable()
export class LibraryService {
  constructor(
    private readonly crates: CratesService,
    private readonly edits: CrateEditsService,
  ) {}

  /** @param entry path of an asset or `material:NAME` */
  rename(id: string, entry: string, name: string): { entry: string } {
    const world = this.crates.world(id);
    const to = entry.startsWith(MATERIAL) ? MATERIAL + name : renamedPath(this.own(id, entry), name);
    const edit = planLinkChange(world, { do: 'rename', entry, name });
    if (edit) this.edits.apply(id, edit);
    return { entry: to };
  }

  /** Renames a global function of the scripts with all that call it. */
  renameFunction(id: string, from: string, to: string): { scripts: string[]; maps: string[] } {
    const world = this.crates.world(id);
    const known = globalFunctions(world.crate.scripts);
    if (!known.includes(from)) throw notFound(`function ${from} in the scripts`);
    const problem =
      luaNameProblem(to) ??
      (known.includes(to) || world.profile.scripts.api.some(({ name }) => name === to) ? `A function is called "${to}" already.` : null);
    if (problem) throw new Problem(422, 'function-name', problem);
    const renaming = renameFunction(world, from, to);
    this.crates.applyRenaming(id, renaming);
    return { scripts: Object.keys(renaming.scripts), maps: Object.keys(renaming.edits) };
  }

  /**
   * Takes assets and materials out of the crate; the change can be undone. What is still in use is
   * refused, with the uses, unless `anyway` is given. Uses by other entries that go along do not count.
   */
  remove(id: string, entries: readonly string[], anyway: boolean): { undo: string } {
    const world = this.crates.world(id);
    const { manifest } = world.crate;
    const going = new Set(entries);
    // A material goes along with the picture it is made of, if nothing else holds it.
    const uses = usageOf(world);
    for (const material of manifest.materials)
      if (material.texture && going.has(material.texture) && (uses.get(MATERIAL + material.name) ?? []).length === 0)
        going.add(MATERIAL + material.name);
    const held = entries.flatMap((entry) =>
      (uses.get(entry) ?? []).filter((use) => !going.has(use.by === 'material' ? MATERIAL + use.name : use.name)).map((use) => ({ entry, use })),
    );
    if (held.length > 0 && !anyway) {
      const sentence = held.slice(0, 3).map(({ entry, use }) => `${entry} is used by ${describe(use)}`);
      throw new Problem(409, 'asset-used', `${sentence.join('; ')}${held.length > 3 ? ` and ${held.length - 3} more` : ''}.`, { uses: held });
    }
    for (const entry of entries) if (!entry.startsWith(MATERIAL)) this.own(id, entry);
    const edit = planLinkChange(world, { do: 'remove', entries: [...going] });
    return { undo: edit ? this.edits.apply(id, edit).id : '' };
  }

  /** Makes or changes a material of the crate. One of the game's is never changed: the crate's own of that name hides it. */
  putMaterial(id: string, name: string, given: unknown): CrateMaterial {
    const { profile, base, crate } = this.crates.world(id);
    const wrong = Value.Errors(CrateMaterialSchema, given).First();
    if (wrong) throw new Problem(422, 'material', `${wrong.path.slice(1) || 'material'}: ${wrong.message}.`);
    const material = given as CrateMaterial;
    const problem = nameProblem(profile, 'file', name) ?? (material.name !== name ? 'The name in the address and in the material differ.' : null);
    if (problem) throw new Problem(422, 'file-name', problem);
    if (!profile.materialTypes.some((type) => type.id === material.type))
      throw new Problem(422, 'material', `${profile.title} has no material type ${material.type}.`);
    if (material.surface && !profile.surfaces.some((surface) => surface.id === material.surface))
      throw new Problem(422, 'material', `${profile.title} has no kind of surface ${material.surface}.`);
    const known = new Set([...crate.files, ...base.files].map((file) => file.path));
    for (const picture of MATERIAL_PICTURES) {
      const path = material[picture];
      if (path && !known.has(path)) throw new Problem(422, 'material', `There is no texture ${path}.`);
    }
    const { materials } = crate.manifest;
    const exists = materials.some((own) => own.name === name);
    this.crates.updateManifest(id, { materials: exists ? materials.map((own) => (own.name === name ? material : own)) : [...materials, material] });
    return material;
  }

  private own(id: string, path: string): string {
    this.crates.fileHash(id, path);
    if (!isScript(path) && !assetKindOf(path)) throw notFound(`asset ${path}`);
    return path;
  }
}

const describe = (use: Use): string => `${use.by} ${use.name} (${use.what})`;
