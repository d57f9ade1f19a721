import { Body, Controller, Delete, Get, Header, HttpCode, Param, Post, Put } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { profileDifferences, profileTrouble } from '@violet-crate/core/setup/profileChange';
import { IsNotEmpty, IsString, Matches, MaxLength } from 'class-validator';
import { CratesService } from '../crates/crates.service.ts';
import { Problem } from '../http/problem.ts';
import { GamesService } from './games.service.ts';
import { profileHash, ProfilesService } from './profiles.service.ts';

/** Characters of a profile. */
const PROFILE_LIMIT = 4_000_000;

export class ProfileTextDto {
  @ApiProperty({ description: 'A profile as JSON, as docs/profiles.md describes it.' })
  @IsString()
  @MaxLength(PROFILE_LIMIT, { message: `A profile may have ${PROFILE_LIMIT} characters.` })
  text!: string;
}

export class TryProfileDto extends ProfileTextDto {
  @ApiProperty({ description: 'Whole path of the install that it is tried against.' })
  @IsString()
  @MaxLength(4096)
  folder!: string;
}

export class CopyProfileDto {
  @ApiProperty({ example: 'my_game' })
  @Matches(/^[a-z][a-z0-9_]{0,39}$/, { message: 'An id has small letters, digits and low lines, and begins with a letter' })
  id!: string;

  @ApiProperty({ example: 'My Game' })
  @IsString()
  @IsNotEmpty({ message: 'A title is needed' })
  @MaxLength(120)
  title!: string;
}

@ApiTags('profiles')
@Controller('api/profiles')
export class ProfilesController {
  constructor(
    private readonly profiles: ProfilesService,
    private readonly games: GamesService,
    private readonly crates: CratesService,
  ) {}

  @Get()
  @ApiOperation({ summary: 'All profiles, and files of the data folder that cannot be used as one.' })
  list() {
    return this.profiles.entries();
  }

  @Post()
  @ApiOperation({ summary: 'Adds a profile.' })
  add(@Body() { text }: ProfileTextDto) {
    const profile = this.profiles.read(text, 'the profile');
    if (this.profiles.list().some(({ id }) => id === profile.id))
      throw new Problem(409, 'profile-there', `There is a profile "${profile.id}" already. Change that one, or give this another id.`);
    this.profiles.save(text);
    this.games.changed();
    return this.profiles.entries();
  }

  @Get(':profile')
  @Header('content-type', 'application/json; charset=utf-8')
  @ApiOperation({ summary: 'A profile’s text.' })
  text(@Param('profile') id: string) {
    return this.profiles.text(id);
  }

  @Post(':profile/copy')
  @ApiOperation({ summary: 'Makes a copy of a profile under another id, to be changed.' })
  copy(@Param('profile') of: string, @Body() { id, title }: CopyProfileDto) {
    if (this.profiles.list().some((one) => one.id === id)) throw new Problem(409, 'profile-there', `There is a profile "${id}" already.`);
    const { example: _example, ...profile } = this.profiles.get(of);
    this.profiles.save(JSON.stringify({ ...profile, id, title, version: '0.1.0' }, null, 2));
    this.games.changed();
    return this.profiles.entries();
  }

  @Put(':profile')
  @ApiOperation({ summary: 'Changes a profile; crates stay with the version that they were made with.' })
  save(@Param('profile') id: string, @Body() { text }: ProfileTextDto) {
    const next = this.profiles.read(text, `${id}.json`);
    if (next.id !== id)
      throw new Problem(422, 'profile-id', `The profile says that it is "${next.id}"; its id stays "${id}". Make a copy to give it another.`);
    this.crates.stayWith(this.profiles.get(id));
    this.profiles.save(text, `${id}.json`);
    this.games.changed();
    return this.profiles.entries();
  }

  @Delete(':profile')
  @HttpCode(204)
  @ApiOperation({ summary: 'Removes a profile that no crate is made with.' })
  remove(@Param('profile') id: string) {
    const users = this.crates.manifests().filter(({ manifest }) => manifest.profile === id);
    if (users.length > 0)
      throw new Problem(
        409,
        'profile-used',
        `${users.length} crates are made with it: ${users
          .slice(0, 3)
          .map(({ manifest }) => manifest.title)
          .join(', ')}.`,
      );
    this.profiles.remove(id);
    this.games.changed();
  }

  @Post(':profile/changes')
  @HttpCode(200)
  @ApiOperation({ summary: 'What a changed text would mean, in general and for each crate; nothing is saved.' })
  changes(@Param('profile') id: string, @Body() { text }: ProfileTextDto) {
    const before = this.profiles.get(id);
    const after = this.profiles.read(text, `${id}.json`);
    const crates = this.crates
      .manifests()
      .filter(({ manifest }) => manifest.profile === id)
      .map((crate) => ({ id: crate.id, title: crate.manifest.title, trouble: profileTrouble(this.crates.contents(crate.id), before, after) }));
    return { same: profileHash(before) === profileHash(after), differences: profileDifferences(before, after), crates };
  }

  @Post('try')
  @HttpCode(200)
  @ApiOperation({ summary: 'Runs all checks of a profile against a folder, without saving it.' })
  async try(@Body() { text, folder }: TryProfileDto) {
    const profile = this.profiles.read(text, 'the profile');
    const game = { profile, folder };
    return { checks: await this.games.checks(game), steps: this.games.preparation(game) };
  }
}
