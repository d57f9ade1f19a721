import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { distinctPath } from '@violet-crate/core/importing/importPlan';
import { UnreadableInput } from '@violet-crate/core/unreadable';

/** What one request may upload: 256 MiB per file, 4000 files. */
export const UPLOAD_LIMITS = { fileSize: 256 << 20, files: 4000, fields: 20 };

/** Characters of a path within an upload. */
const MOST_PATH = 1000;

/** Options of multer for whole folders: names keep their folders. */
export const UPLOAD = { limits: UPLOAD_LIMITS, preservePath: true };

/** An uploaded file's path. Browsers send names as UTF-8, which multer reads as Latin-1. */
export function uploadedPath({ originalname }: Express.Multer.File): string {
  const path = Buffer.from(originalname, 'latin1').toString('utf8').replaceAll('\\', '/').replace(/^\/+/, '');
  if (path === '' || path.split('/').includes('..') || path.includes('\0'))
    throw new UnreadableInput('file-path', `"${path}" is not a path within a folder.`, { file: path });
  if (path.length > MOST_PATH) throw new UnreadableInput('file-path', `"${path.slice(0, 60)}…" is longer than ${MOST_PATH} characters.`);
  return path;
}

/** Uploaded files by path; where two have the same one, the later gets another, so that none is lost. */
export function uploadedTree(uploaded: readonly Express.Multer.File[]): FileTree {
  const tree: FileTree = new Map();
  for (const file of uploaded) tree.set(distinctPath(uploadedPath(file), tree), new Uint8Array(file.buffer));
  return tree;
}
