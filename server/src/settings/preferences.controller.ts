import { Body, Controller, Get, Put } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsObject, IsOptional } from 'class-validator';
import { SettingsService } from './settings.service.ts';

export class PreferencesDto {
  @ApiProperty({ description: 'By id, as docs/formats.md lists them; what is left out takes its default.' })
  @IsObject()
  values!: Record<string, unknown>;

  @ApiProperty({ description: 'Keys of commands by their id.' })
  @IsObject()
  keys!: Record<string, unknown>;

  @ApiProperty({ description: 'What single crates have otherwise, by the id of the crate.', required: false })
  @IsOptional()
  @IsObject()
  crates?: Record<string, unknown>;
}

@ApiTags('settings')
@Controller('api/preferences')
export class PreferencesController {
  constructor(private readonly settings: SettingsService) {}

  @Get()
  @ApiOperation({ summary: 'What the user of this machine prefers.' })
  get() {
    return this.settings.preferences();
  }

  @Put()
  @ApiOperation({ summary: 'Sets all preferences; answers them, with the names of what could not be taken.' })
  set(@Body() body: PreferencesDto) {
    return this.settings.setPreferences(body);
  }
}
