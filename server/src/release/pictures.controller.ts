import { Body, Controller, HttpCode, Param, Post, Put } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { readPng } from '@violet-crate/core/asset/texture/readPng';
import { MOST_PICTURES, takenPath, takenPictures, TITLE_PICTURE } from '@violet-crate/core/release/takenPictures';
import { IsString, Matches, MaxLength } from 'class-validator';
import { CratesService } from '../crates/crates.service.ts';
import { notFound, Problem } from '../http/problem.ts';

export class PictureDto {
  @ApiProperty({ description: 'PNG as a data URL.' })
  @IsString()
  @MaxLength(24_000_000)
  @Matches(/^data:image\/png;base64,/, { message: 'A picture is a PNG as a data URL' })
  png!: string;
}

/** Pixels along a side. */
const MOST_PIXELS = 4096;

/** @throws where it is no picture, or larger than anybody looks at */
function readPicture(url: string): Uint8Array {
  const png = new Uint8Array(Buffer.from(url.slice(url.indexOf(',') + 1), 'base64'));
  const { width, height } = readPng(png, 'The picture');
  if (width > MOST_PIXELS || height > MOST_PIXELS)
    throw new Problem(422, 'picture', `The picture has ${width} × ${height} pixels; at most ${MOST_PIXELS} along a side are taken.`);
  return png;
}

/** Pictures of a crate for its release: files among its sources, the title by its name, the others numbered. */
@ApiTags('publish')
@Controller('api/crates/:id/pictures')
export class PicturesController {
  constructor(private readonly crates: CratesService) {}

  @Post()
  @ApiOperation({ summary: 'Adds a picture; the first is the title.' })
  add(@Param('id') id: string, @Body() { png }: PictureDto) {
    const { files } = this.crates.view(id);
    const taken = takenPictures(files);
    if (taken.length >= MOST_PICTURES)
      throw new Problem(409, 'pictures', `A release has at most ${MOST_PICTURES} pictures beside its title. Remove one first.`);
    const free = () => {
      for (let n = 1; ; n++) if (!taken.includes(takenPath(String(n).padStart(2, '0')))) return takenPath(String(n).padStart(2, '0'));
    };
    const path = files.some((file) => file.path === TITLE_PICTURE) ? free() : TITLE_PICTURE;
    this.crates.writeFiles(id, [{ path, bytes: readPicture(png) }]);
    return { path };
  }

  @Put(':name')
  @ApiOperation({ summary: 'Puts another in the place of a picture, as after cropping it.' })
  replace(@Param('id') id: string, @Param('name') name: string, @Body() { png }: PictureDto) {
    const path = this.there(id, name);
    this.crates.writeFiles(id, [{ path, bytes: readPicture(png) }]);
    return { path };
  }

  @Post(':name/title')
  @HttpCode(200)
  @ApiOperation({ summary: 'Makes a picture the title; what was the title takes its place.' })
  title(@Param('id') id: string, @Param('name') name: string) {
    const path = this.there(id, name);
    const [one, title] = [path, TITLE_PICTURE].map((file) =>
      this.crates.view(id).files.some((known) => known.path === file) ? this.crates.readFile(id, file) : null,
    );
    this.crates.writeFiles(id, [{ path: TITLE_PICTURE, bytes: one! }, ...(title ? [{ path, bytes: title }] : [])]);
    if (!title) this.crates.removeFile(id, path);
    return { path: TITLE_PICTURE };
  }

  private there(id: string, name: string): string {
    const path = takenPath(name);
    if (!this.crates.view(id).files.some((file) => file.path === path)) throw notFound(`picture ${name}`);
    return path;
  }
}
