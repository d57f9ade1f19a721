import { encode as encodePng } from 'fast-png';
import { convertPacked, convertTexture } from '../../asset/texture/convert.ts';
import { roleOf, TEXTURE_OPTIONS, type TextureOptions } from '../../asset/texture/options.ts';
import { likenessOf } from '../../asset/texture/likeness.ts';
import { readImage } from '../../asset/texture/readImage.ts';
import { previewPath } from '../../crate/contents.ts';
import type { FileTree } from '../../crate/fileTree.ts';
import type { CrateMaterial } from '../../crate/manifest.ts';
import { UnreadableInput } from '../../unreadable.ts';
import { extensionOf, type ImportKind } from './made.ts';

export const texture: ImportKind = {
  options: TEXTURE_OPTIONS,
  async convert(profile, input) {
    const { file, bytes, name, companions = new Map(), pack } = input;
    const path = `textures/${name}.ktx2`;
    const pictureOf = async (wanted: string | undefined) => {
      if (wanted === undefined) return undefined;
      const content = wanted === file ? bytes : companions.get(wanted);
      if (!content) throw new UnreadableInput('file-missing', `${wanted} is missing.`, { file: wanted });
      return await readImage(content, wanted);
    };
    const converted = pack
      ? await convertPacked(profile, file, {
          occlusion: await pictureOf(pack.occlusion),
          roughness: await pictureOf(pack.roughness),
          metalness: await pictureOf(pack.metalness),
        })
      : await convertTexture(profile, file, bytes, input.options as Partial<TextureOptions>);
    const { role, base } = roleOf(name);
    const { use } = converted.options;
    const add: Partial<CrateMaterial> = pack
      ? { packed: path }
      : use === 'normal' || use === 'height'
        ? { normal: path }
        : role === 'emission'
          ? { emissionMap: path }
          : { texture: path, colour: converted.colour };
    const makes = !pack && add.texture !== undefined && use !== 'data';
    const sky = use === 'sky' ? profile.materialTypes.find((type) => type.sky)?.id : undefined;
    const type = sky ?? (converted.options.cutout ? profile.materialTypes.find((t) => t.id === 'cutout')?.id : undefined);
    const files: FileTree = new Map([
      [path, converted.ktx2],
      [previewPath(path), converted.preview],
    ]);
    const { width, height, data } = converted.picture;
    const look = likenessOf(converted.picture);
    if (input.also === 'png') files.set(`textures/${name}.png`, encodePng({ width, height, data, channels: 4, depth: 8 }));
    return {
      path,
      files,
      record: {
        source: `sources/textures/${name}${extensionOf(file)}`,
        options: { ...converted.options, ...(pack ? { pack } : {}) },
        width,
        height,
        seam: Math.round(converted.seam * 100) / 100,
        ...(look ? { look } : {}),
      },
      material: {
        name: pack ? name.replace(/_orm$/, '') : base,
        add: makes ? { type: type ?? profile.materialTypes[0].id, unitsPerRepeat: profile.textures.unitsPerRepeat, ...add } : add,
        makes,
      },
      findings: converted.findings,
    };
  },
};
