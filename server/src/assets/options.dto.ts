import { ApiPropertyOptional } from '@nestjs/swagger';
import {
  COLLISIONS,
  HANDEDNESS,
  NORMAL_MODES,
  PIVOTS,
  TANGENT_MODES,
  UNITS,
  UP_AXES,
  WINDINGS,
  type ModelOptions,
} from '@violet-crate/core/asset/mesh/model/options';
import { SOUND_CHANNELS, SOUND_FORMATS, type SoundOptions } from '@violet-crate/core/asset/sound/options';
import { COMPRESSIONS, TEXTURE_USES, type TextureOptions } from '@violet-crate/core/asset/texture/options';
import type { AssetKind } from '@violet-crate/core/crate/assetKind';
import { plainToInstance } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsOptional,
  IsString,
  Max,
  MaxLength,
  Min,
  validateSync,
  type ValidationOptions,
} from 'class-validator';
import { IsWords } from '../http/isWords.ts';
import { Problem } from '../http/problem.ts';

/** One of a list of words, or absent. */
function Choice(values: readonly string[]): PropertyDecorator {
  return (target, key) => {
    ApiPropertyOptional({ enum: [...values] })(target, key);
    IsOptional()(target, key);
    IsIn([...values])(target, key);
  };
}

/** A number within limits, or absent. */
function Within(least: number, most: number, options?: ValidationOptions): PropertyDecorator {
  return (target, key) => {
    ApiPropertyOptional({ type: Number, minimum: least, maximum: most })(target, key);
    IsOptional()(target, key);
    IsNumber({}, options)(target, key);
    Min(least, options)(target, key);
    Max(most, options)(target, key);
  };
}

function Switch(): PropertyDecorator {
  return (target, key) => {
    ApiPropertyOptional({ type: Boolean })(target, key);
    IsOptional()(target, key);
    IsBoolean()(target, key);
  };
}

export class ModelOptionsDto implements Partial<ModelOptions> {
  @Choice(UNITS) unit?: string;
  @Choice(UP_AXES) upAxis?: ModelOptions['upAxis'];
  @Choice(HANDEDNESS) handedness?: ModelOptions['handedness'];
  @Choice(PIVOTS) pivot?: ModelOptions['pivot'];
  @IsOptional() @IsArray() @ArrayMinSize(3) @ArrayMaxSize(3) @IsNumber({}, { each: true }) pivotPoint?: [number, number, number];
  @Choice(NORMAL_MODES) normals?: ModelOptions['normals'];
  @Within(0, 180) smoothAngle?: number;
  @Within(-1, 1e6) weld?: number;
  @Choice(TANGENT_MODES) tangents?: ModelOptions['tangents'];
  @Choice(WINDINGS) winding?: ModelOptions['winding'];
  @Switch() tidy?: boolean;
  @IsOptional() @IsArray() @ArrayMaxSize(6) @IsNumber({}, { each: true }) @Min(0.001, { each: true }) @Max(0.999, { each: true }) lods?: number[];
  @Choice(COLLISIONS) collision?: ModelOptions['collision'];
  @IsOptional() @IsInt() @Min(1) @Max(64) collisionParts?: number;
  @Switch() movable?: boolean;
  @Within(0, 1e6) mass?: number;
  @IsOptional() @IsWords({ most: 500 }) materials?: Record<string, string>;
  @IsOptional() @IsString() @MaxLength(80) variantOf?: string;
  @IsOptional() @IsString() @MaxLength(80) variant?: string;
}

export class TextureOptionsDto implements Partial<TextureOptions> {
  @Choice(TEXTURE_USES) use?: TextureOptions['use'];
  @Choice(COMPRESSIONS) compression?: TextureOptions['compression'];
  @Switch() cutout?: boolean;
  @IsOptional() @IsInt() @Min(0) @Max(8192) maxSize?: number;
  @Within(0, 100) strength?: number;
  @Switch() flipGreen?: boolean;
  @IsOptional() @IsWords({ keys: ['occlusion', 'roughness', 'metalness'], most: 3 }) pack?: Record<string, string>;
}

export class SoundOptionsDto implements Partial<SoundOptions> {
  @Choice(SOUND_CHANNELS) channels?: SoundOptions['channels'];
  @Choice(SOUND_FORMATS) format?: SoundOptions['format'];
  @Switch() trim?: boolean;
  @Within(-120, 0) trimBelow?: number;
  @Switch() normalise?: boolean;
  @Switch() loop?: boolean;
  @Within(0, 36000) loopStart?: number;
  @Within(0, 36000) loopEnd?: number;
}

const CLASSES: Partial<Record<AssetKind, new () => object>> = { model: ModelOptionsDto, texture: TextureOptionsDto, sound: SoundOptionsDto };

/** Settings for one kind of asset, checked; anything unknown or out of range is refused by name. */
export function checkOptions(kind: AssetKind, given: Record<string, unknown>): Record<string, unknown> {
  const type = CLASSES[kind];
  if (!type) return {};
  const wrong = validateSync(plainToInstance(type, given), { whitelist: true, forbidNonWhitelisted: true })[0];
  if (wrong) throw new Problem(422, 'option', `${wrong.property}: ${Object.values(wrong.constraints ?? { value: 'is not right' }).join(', ')}.`);
  return given;
}
