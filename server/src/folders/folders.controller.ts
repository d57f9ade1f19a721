import { readdirSync, statSync } from 'node:fs';
import { homedir } from 'node:os';
import { dirname, isAbsolute, join, resolve } from 'node:path';
import { Controller, Get, Query } from '@nestjs/common';
import { ApiOperation, ApiQuery, ApiTags } from '@nestjs/swagger';
import { Problem } from '../http/problem.ts';

/** Folders that are listed of one. */
const LISTED = 2000;

@ApiTags('folders')
@Controller('api/folders')
export class FoldersController {
  @Get()
  @ApiOperation({ summary: 'Folders of the server’s machine below one, for choosing; the user’s own without a path.' })
  @ApiQuery({ name: 'path', required: false })
  list(@Query('path') path?: string) {
    const folder = path === undefined || path === '' ? homedir() : String(path);
    if (!isAbsolute(folder) || folder.includes('\0'))
      throw new Problem(422, 'folder', 'Give the whole path of the folder, from the root of the disk.');
    const whole = resolve(folder);
    let entries;
    try {
      entries = readdirSync(whole, { withFileTypes: true });
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      throw new Problem(
        422,
        'folder',
        code === 'ENOENT'
          ? `There is no folder ${whole} on this machine.`
          : code === 'ENOTDIR'
            ? `${whole} is a file.`
            : `${whole} may not be looked into.`,
      );
    }
    const folders = entries
      .filter((entry) => !entry.name.startsWith('.') && (entry.isDirectory() || (entry.isSymbolicLink() && isFolder(join(whole, entry.name)))))
      .map(({ name }) => name)
      .sort()
      .slice(0, LISTED);
    return {
      path: whole,
      parent: dirname(whole) === whole ? null : dirname(whole),
      folders,
      files: entries.filter((entry) => entry.isFile()).length,
    };
  }
}

/** Whether a link leads to a folder; one that leads round in a circle does not. */
function isFolder(path: string): boolean {
  try {
    return statSync(path, { throwIfNoEntry: false })?.isDirectory() ?? false;
  } catch {
    return false;
  }
}
