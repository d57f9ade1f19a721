import {
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Param,
  ParseIntPipe,
  Patch,
  Post,
  Put,
  Query,
  Res,
  UploadedFile,
  UseInterceptors,
} from '@nestjs/common';
import { FileInterceptor } from '@nestjs/platform-express';
import { ApiOperation, ApiQuery, ApiTags } from '@nestjs/swagger';
import { Value } from '@sinclair/typebox/value';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import { writeGlb } from '@violet-crate/core/asset/mesh/write/writeGlb';
import { writeObj } from '@violet-crate/core/asset/mesh/write/writeObj';
import { mapModel } from '@violet-crate/core/stages/exportMap';
import { isData, isScript } from '@violet-crate/core/crate/contents';
import { dataProblem } from '@violet-crate/core/check/dataProblem';
import { nameProblem } from '@violet-crate/core/crate/naming';
import { MapEditSchema, type MapEdit } from '@violet-crate/core/document/edit';
import { readInputs } from '@violet-crate/core/trial/walk';
import { readWalk, walkPath } from '@violet-crate/core/trial/walkFiles';
import type { Response } from 'express';
import { ImportsService } from '../assets/imports.service.ts';
import { notFound, Problem } from '../http/problem.ts';
import { sendStrangersFile } from '../http/strangersFile.ts';
import { UPLOAD_LIMITS, uploadedPath } from '../http/upload.ts';
import { ArchiveDto, CopyDto, CrateGameDto, DataDto, ManifestDto, MapEditsDto, NewCrateDto, ScriptDto, WalkDto } from './crates.dto.ts';
import { CratesService, plannedPaths } from './crates.service.ts';
import { ShelfService } from './shelf.service.ts';

/** Express 5 hands a wildcard over as its segments. */
export const joinPath = (path: string | string[]): string => (Array.isArray(path) ? path.join('/') : path);

@ApiTags('crates')
@Controller('api/crates')
export class CratesController {
  constructor(
    private readonly crates: CratesService,
    private readonly shelf: ShelfService,
    private readonly imports: ImportsService,
  ) {}

  @Get()
  @ApiOperation({ summary: 'All crates by name, with how far each has come; deleted ones that can be had back among them.' })
  list() {
    return this.shelf.list();
  }

  @Post()
  @ApiOperation({ summary: 'Makes a crate from a template.' })
  create(@Body() body: NewCrateDto) {
    return this.crates.view(this.crates.create(body));
  }

  @Post('plan')
  @HttpCode(200)
  @ApiOperation({ summary: 'The files that a new crate would have; nothing is made.' })
  plan(@Body() body: NewCrateDto) {
    return { files: plannedPaths(this.crates.plan(body).contents) };
  }

  @Post('import')
  @ApiOperation({ summary: 'Takes in a crate’s folder as a ZIP.' })
  @UseInterceptors(FileInterceptor('file', { limits: UPLOAD_LIMITS }))
  async import(@UploadedFile() file?: Express.Multer.File) {
    if (!file) throw new Problem(422, 'file-missing', 'Choose a ZIP with a crate’s folder.');
    const tree = await this.imports.open(uploadedPath(file), new Uint8Array(file.buffer));
    const { id, damage } = this.crates.importTree(withoutTopFolder(tree));
    return { ...this.crates.view(id), damage };
  }

  @Get(':id')
  @ApiOperation({ summary: 'Manifest, files and maps of a crate.' })
  view(@Param('id') id: string) {
    return this.crates.view(id);
  }

  @Patch(':id')
  @ApiOperation({ summary: 'Changes title, description, version, authors or credits.' })
  update(@Param('id') id: string, @Body() body: ManifestDto) {
    return this.crates.updateManifest(id, body);
  }

  @Delete(':id')
  @HttpCode(204)
  @ApiOperation({ summary: 'Deletes a crate; it can be had back for thirty days.' })
  async remove(@Param('id') id: string) {
    await this.shelf.remove(id);
  }

  @Post('deleted/:crate/restore')
  @HttpCode(200)
  @ApiOperation({ summary: 'Has a deleted crate back.' })
  restore(@Param('crate') id: string) {
    this.shelf.restore(id);
    return this.crates.view(id);
  }

  @Delete('deleted/:crate')
  @HttpCode(204)
  @ApiOperation({ summary: 'Takes a deleted crate away for good.' })
  async erase(@Param('crate') id: string) {
    if (!this.shelf.list().some((entry) => entry.id === id && entry.deletedAt)) throw notFound('deleted crate with this address');
    await this.crates.erase(id);
  }

  @Post(':id/copy')
  @ApiOperation({ summary: 'Makes a copy of a crate under another name.' })
  copy(@Param('id') id: string, @Body() { name, title }: CopyDto) {
    return this.crates.view(this.shelf.copy(id, name, title));
  }

  @Put(':id/name')
  @ApiOperation({ summary: 'Gives a crate another name and title.' })
  rename(@Param('id') id: string, @Body() { name, title }: CopyDto) {
    this.shelf.rename(id, name, title);
    return this.crates.view(id);
  }

  @Put(':id/archived')
  @ApiOperation({ summary: 'Puts a crate away below the others, or takes it back.' })
  archive(@Param('id') id: string, @Body() { archived }: ArchiveDto) {
    this.shelf.archive(id, archived);
    return this.crates.view(id);
  }

  @Get(':id/game')
  @ApiOperation({ summary: 'The game that a crate is made with: profile, install, and what has changed since somebody last looked.' })
  game(@Param('id') id: string) {
    return this.crates.gameState(id);
  }

  @Put(':id/game')
  @ApiOperation({ summary: 'Makes a crate with another install; with the present one, takes it as it is now.' })
  setGame(@Param('id') id: string, @Body() { install }: CrateGameDto) {
    this.crates.useInstall(id, install);
    return this.crates.gameState(id);
  }

  @Post(':id/profile')
  @HttpCode(200)
  @ApiOperation({ summary: 'Moves a crate to its profile as it is now.' })
  moveToProfile(@Param('id') id: string) {
    this.crates.moveToProfile(id);
    return this.crates.gameState(id);
  }

  @Get(':id/export')
  @ApiOperation({ summary: 'The crate’s folder as a ZIP, for version control or another machine.' })
  @ApiQuery({ name: 'damaged', required: false, description: '`without`: what is damaged is left out instead of being refused.' })
  export(@Param('id') id: string, @Res() response: Response, @Query('damaged') damaged?: string) {
    const { name } = this.crates.view(id).manifest;
    const zip = writeZip(this.crates.exportTree(id, damaged === 'without'));
    response.type('application/zip').setHeader('content-disposition', `attachment; filename="${name}.zip"`);
    response.send(Buffer.from(zip));
  }

  @Get(':id/files/*path')
  @ApiOperation({ summary: 'One file of the crate.' })
  file(@Param('id') id: string, @Param('path') path: string | string[], @Res() response: Response) {
    const wanted = joinPath(path);
    const sha256 = this.crates.fileHash(id, wanted);
    response.setHeader('etag', `"${sha256}"`).setHeader('cache-control', 'no-cache');
    sendStrangersFile(response, wanted, this.crates.readFile(id, wanted));
  }

  @Get(':id/stock')
  @ApiOperation({ summary: 'What the crate may use and does not hold: the stock of its game and of the crates that it requires.' })
  stock(@Param('id') id: string) {
    const { base, required } = this.crates.world(id);
    return { base, required };
  }

  @Put(':id/scripts/*path')
  @ApiOperation({ summary: 'Saves a script; a new name makes a new file.' })
  saveScript(@Param('id') id: string, @Param('path') path: string | string[], @Body() body: ScriptDto) {
    const file = `scripts/${joinPath(path)}`;
    const profile = this.crates.game(id).profile;
    const problem = nameProblem(profile, 'file', /^scripts\/([^/]*)\.lua$/.exec(file)?.[1] ?? '');
    if (!isScript(file) || problem) throw new Problem(422, 'file-name', `"${joinPath(path)}": ${problem ?? 'a script’s name ends in .lua.'}`);
    this.crates.writeFiles(id, [{ path: file, bytes: new TextEncoder().encode(body.source) }]);
    return { path: file, sha256: this.crates.fileHash(id, file) };
  }

  @Put(':id/data/*path')
  @ApiOperation({
    summary: 'Saves a table (records/TABLE.json), a conversation (talk/NAME.json) or what is remembered; a new name makes a new file.',
  })
  saveData(@Param('id') id: string, @Param('path') path: string | string[], @Body() body: DataDto) {
    const file = joinPath(path);
    const problem = isData(file) ? dataProblem(this.crates.game(id).profile, file, body.source) : `${file} is no file of game data.`;
    if (problem) throw new Problem(422, 'data', problem);
    this.crates.writeFiles(id, [{ path: file, bytes: new TextEncoder().encode(body.source) }]);
    return { path: file, sha256: this.crates.fileHash(id, file) };
  }

  @Get(':id/script-versions')
  @ApiOperation({ summary: 'What a script was before, newest first.' })
  @ApiQuery({ name: 'path', example: 'scripts/main.lua' })
  scriptVersions(@Param('id') id: string, @Query('path') path: string) {
    return this.crates.scriptVersions(id, String(path ?? '')).map(({ id: version, savedAt }) => ({ version, savedAt }));
  }

  @Get(':id/script-versions/:version')
  @ApiOperation({ summary: 'The text of a script as it was.' })
  scriptVersion(@Param('id') id: string, @Param('version') version: string) {
    if (!/^\d{1,12}$/.test(version)) throw notFound('such version of a script');
    return { source: this.crates.scriptVersion(id, Number(version)) };
  }

  @Put(':id/walks/:map/:name')
  @ApiOperation({ summary: 'Saves a recorded run as a walk of a map; a known name is replaced.' })
  saveWalk(@Param('id') id: string, @Param('map') map: string, @Param('name') name: string, @Body() body: WalkDto) {
    const profile = this.crates.game(id).profile;
    this.crates.map(id, map);
    const problem = nameProblem(profile, 'file', name);
    if (problem) throw new Problem(422, 'file-name', `"${name}": ${problem}`);
    const path = walkPath(map, name);
    const text = JSON.stringify(body.walk);
    readInputs(readWalk(text, path, map).inputs);
    this.crates.writeFiles(id, [{ path, bytes: new TextEncoder().encode(text) }]);
    return { path, sha256: this.crates.fileHash(id, path) };
  }

  @Delete(':id/files/*path')
  @HttpCode(204)
  @ApiOperation({ summary: 'Removes a file from the crate.' })
  removeFile(@Param('id') id: string, @Param('path') path: string | string[]) {
    this.crates.removeFile(id, joinPath(path));
  }

  @Get(':id/maps/:map')
  @ApiOperation({ summary: 'A map and its revision.' })
  map(@Param('id') id: string, @Param('map') map: string) {
    return this.crates.map(id, map);
  }

  @Get(':id/maps/:map/export.:form')
  @ApiOperation({ summary: 'The map’s faces and ground as GLB, or as a ZIP with OBJ and MTL; `only=ground` leaves solids out.' })
  async exportMap(
    @Param('id') id: string,
    @Param('map') map: string,
    @Param('form') form: string,
    @Res() response: Response,
    @Query('only') only?: string,
    @Query('error') error?: string,
  ) {
    this.crates.map(id, map);
    const within = error === undefined ? undefined : Number(error);
    if (within !== undefined && !(within >= 0))
      throw new Problem(422, 'export-error', 'How far the ground may be from its samples is a number from 0 on.');
    const model = mapModel(this.crates.world(id), map, only === 'ground' ? 'ground' : 'all', within);
    const attach = (name: string) => response.setHeader('content-disposition', `attachment; filename="${name}"`);
    if (form === 'glb') {
      attach(`${map}.glb`);
      response.type('model/gltf-binary').send(Buffer.from(await writeGlb({ model, lods: [], collision: null, slots: [] })));
    } else if (form === 'obj') {
      const { obj, mtl } = writeObj(model, map);
      const encoder = new TextEncoder();
      attach(`${map}_obj.zip`);
      response.type('application/zip').send(
        Buffer.from(
          writeZip(
            new Map([
              [`${map}.obj`, encoder.encode(obj)],
              [`${map}.mtl`, encoder.encode(mtl)],
            ]),
          ),
        ),
      );
    } else throw new Problem(422, 'export-form', 'A map goes out as glb or obj.');
  }

  @Get(':id/maps/:map/edits')
  @ApiOperation({ summary: 'The edits after a revision.' })
  editsSince(@Param('id') id: string, @Param('map') map: string, @Query('since', ParseIntPipe) since: number) {
    return this.crates.editsSince(id, map, since);
  }

  @Get(':id/maps/:map/revisions')
  @ApiOperation({ summary: 'What was done to a map, newest first.' })
  revisions(@Param('id') id: string, @Param('map') map: string) {
    return this.crates.revisions(id, map);
  }

  @Get(':id/maps/:map/revisions/:revision')
  @ApiOperation({ summary: 'The map as it was at a revision.' })
  mapAt(@Param('id') id: string, @Param('map') map: string, @Param('revision', ParseIntPipe) revision: number) {
    return { map: this.crates.mapAt(id, map, revision), revision };
  }

  @Post(':id/maps/:map/edits')
  @ApiOperation({ summary: 'Appends edits to a map.' })
  edit(@Param('id') id: string, @Param('map') map: string, @Body() body: MapEditsDto) {
    body.edits.forEach((edit, i) => {
      const wrong = Value.Errors(MapEditSchema, edit).First();
      if (wrong) throw new Problem(422, 'edit', `Edit ${i + 1}: ${wrong.path || 'edit'}: ${wrong.message}.`);
    });
    return this.crates.editMap(id, map, body.base, body.edits as unknown as MapEdit[], { force: body.force, tab: body.tab });
  }
}

/** Archives of a folder often hold that folder itself: `pumphouse/crate.json` counts as `crate.json`. */
function withoutTopFolder(tree: Map<string, Uint8Array>): Map<string, Uint8Array> {
  if (tree.has('crate.json')) return tree;
  const top = [...tree.keys()].find((path) => /^[^/]+\/crate\.json$/.test(path))?.split('/')[0];
  if (!top) return tree;
  return new Map([...tree].filter(([path]) => path.startsWith(`${top}/`)).map(([path, bytes]) => [path.slice(top.length + 1), bytes]));
}
