import { existsSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Controller, Get, Inject, Param, Res } from '@nestjs/common';
import { For } from './accounts/access.ts';
import { depotFile } from '@violet-crate/core/setup/depot';
import type { Response } from 'express';
import { Refusal } from './refusal.ts';

export const DEPOT = Symbol('depot');

/**
 * The stand-in depot: a folder with `index.json` and an archive for each version. Ranges, conditions and validators are those of
 * RFC 9110, sections 8.8, 13 and 14, as Express sends files.
 */
@For('anyone')
@Controller('depot')
export class DepotController {
  constructor(@Inject(DEPOT) private readonly folder: string) {}

  @Get('index.json')
  index(@Res() response: Response) {
    const file = join(this.folder, 'index.json');
    if (!existsSync(file)) throw new Refusal(503, 'The depot is being filled; ask again in a moment.');
    response.type('application/json').sendFile(file, { cacheControl: false, dotfiles: 'allow' });
  }

  @Get('items/:id/:version')
  archive(@Param('id') id: string, @Param('version') version: string, @Res() response: Response) {
    const known = /^[a-z][a-z0-9_]{0,39}$/.test(id) && /^[0-9][0-9A-Za-z.+-]{0,39}$/.test(version);
    const file = join(this.folder, depotFile(id, version));
    if (!known || !statSync(file, { throwIfNoEntry: false })?.isFile()) throw new Refusal(404, `The depot has no ${id} ${version}.`);
    response.type('application/zip').sendFile(file, { cacheControl: false, dotfiles: 'allow', acceptRanges: true }, (error) => {
      // A range that cannot be had (416) and a client that went away: both are said already, or cannot be.
      if (error && !response.headersSent) response.status((error as { status?: number }).status ?? 500).end();
    });
  }
}
