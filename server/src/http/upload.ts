import type { FileTree } from '@violet-crate/core/crate/contents';
import { UnreadableInput } from '@violet-crate/core/finding';

/** What one request may upload: 256 MiB per file, 4000 files. */
export const UPLOAD_LIMITS = { fileSize: 256 << 20, files: 4000, fields: 20 };

/** Options of multer for whole folders: names keep their folders. */
export const UPLOAD = { limits: UPLOAD_LIMITS, preservePath: true };

/** Uploaded files by path. Paths that leave their folder are refused, whatever sent them. */
export function uploadedTree(uploaded: readonly Express.Multer.File[]): FileTree {
  return new Map(
    uploaded.map((file) => {
      // Browsers send names as UTF-8, which multer reads as Latin-1.
      const path = Buffer.from(file.originalname, 'latin1').toString('utf8').replaceAll('\\', '/').replace(/^\/+/, '');
      if (path.split('/').includes('..') || path.includes('\0'))
        throw new UnreadableInput('file-path', `"${path}" is not a path within a folder.`, { file: path });
      return [path, new Uint8Array(file.buffer)];
    }),
  );
}
