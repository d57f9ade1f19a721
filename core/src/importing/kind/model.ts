import { convertModel } from '../../asset/mesh/convert.ts';
import { MODEL_OPTIONS, type ModelOptions } from '../../asset/mesh/model/options.ts';
import { writeObj } from '../../asset/mesh/write/writeObj.ts';
import { previewPath } from '../../crate/contents.ts';
import type { FileTree } from '../../crate/fileTree.ts';
import { extensionOf, type ImportKind } from './made.ts';

export const model: ImportKind = {
  options: MODEL_OPTIONS,
  async convert(profile, input) {
    const { file, bytes, companions, materials, name } = input;
    const converted = await convertModel(profile, { file, bytes, companions, materials }, input.options as Partial<ModelOptions>);
    const path = `models/${name}.glb`;
    const { options } = converted;
    const files: FileTree = new Map([
      [path, converted.glb],
      [previewPath(path), converted.preview],
    ]);
    if (input.also === 'obj') {
      const text = writeObj(converted.model, name);
      files.set(`models/${name}.obj`, new TextEncoder().encode(text.obj));
      files.set(`models/${name}.mtl`, new TextEncoder().encode(text.mtl));
    }
    return {
      path,
      files,
      record: {
        source: `sources/models/${name}${extensionOf(file)}`,
        options: { ...options },
        bounds: converted.bounds,
        pivotAt: converted.pivotAt,
        shape: converted.shape,
        ...(converted.repeats === undefined ? {} : { repeats: converted.repeats }),
        triangles: converted.triangles,
        vertices: converted.vertices,
        slots: converted.slots,
        lods: converted.lods,
        ...(converted.collision ? { collision: converted.collision } : {}),
        movable: options.movable,
        clips: converted.clips,
        bones: converted.bones,
        ...(options.variantOf ? { variantOf: options.variantOf, variant: options.variant } : {}),
      },
      findings: converted.findings,
    };
  },
};
