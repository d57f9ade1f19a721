import { Body, Controller, Get, Put } from '@nestjs/common';
import { ApiOperation, ApiPropertyOptional, ApiTags } from '@nestjs/swagger';
import { IsOptional, IsString, IsUrl, MaxLength } from 'class-validator';
import { SettingsService } from './settings.service.ts';

const ADDRESS = { require_tld: false, protocols: ['http', 'https'], require_protocol: true };

export class SettingsDto {
  @ApiPropertyOptional({ example: 'http://127.0.0.1:4281' })
  @IsOptional()
  @IsUrl(ADDRESS, { message: 'The workshop’s address looks like http://127.0.0.1:4281' })
  workshopUrl?: string;

  @ApiPropertyOptional({ example: 'http://127.0.0.1:4281/depot' })
  @IsOptional()
  @IsUrl(ADDRESS, { message: 'The depot’s address looks like http://127.0.0.1:4281/depot' })
  depotUrl?: string;

  @ApiPropertyOptional({ description: 'For the workshop at that address and for no other; empty for none.' })
  @IsOptional()
  @IsString()
  @MaxLength(200)
  workshopToken?: string;
}

@ApiTags('settings')
@Controller('api/settings')
export class SettingsController {
  constructor(private readonly settings: SettingsService) {}

  @Get()
  @ApiOperation({ summary: 'The settings; of the token only whether there is one for the workshop’s address.' })
  get() {
    return this.settings.shown();
  }

  @Put()
  @ApiOperation({ summary: 'Changes settings.' })
  set(@Body() body: SettingsDto) {
    return this.settings.set(body);
  }
}
