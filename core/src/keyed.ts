import { Type, type TRecord, type TSchema, type TString } from '@sinclair/typebox';

/** A record whose keys are of a form: any other key is refused, which `Type.Record` by itself takes with whatever it holds. */
export const Keyed = <T extends TSchema>(key: TString, value: T, options: object = {}): TRecord<TString, T> =>
  Type.Record(key, value, { additionalProperties: false, ...options });
