import { availableParallelism } from 'node:os';
import { Inject, Injectable } from '@nestjs/common';
import { defaultPreferences, readPreferences, type Preferences } from '@violet-crate/core/preferences/preferences';
import { eq } from 'drizzle-orm';
import { CONFIG, type Config } from '../config.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { settings } from '../database/schema.ts';

const PREFERENCES_KEY = 'preferences';
const OPENERS_KEY = 'openers';

export interface Settings {
  workshopUrl: string;
  workshopToken: string;
  depotUrl: string;
}

/** Settings that the user may change; the environment gives their first values. */
@Injectable()
export class SettingsService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  get(): Settings {
    const own = Object.fromEntries(
      this.database
        .select()
        .from(settings)
        .all()
        .map((row) => [row.key, row.value]),
    );
    return {
      workshopUrl: own.workshopUrl ?? this.config.workshopUrl,
      workshopToken: own.workshopToken ?? this.config.workshopToken,
      depotUrl: own.depotUrl ?? this.config.depotUrl,
    };
  }

  set(change: Partial<Settings>): Settings {
    for (const [key, value] of Object.entries(change)) {
      if (typeof value === 'string') this.put(key, value);
    }
    return this.get();
  }

  preferences(): Preferences {
    const row = this.database.select().from(settings).where(eq(settings.key, PREFERENCES_KEY)).get();
    try {
      return readPreferences(JSON.parse(row?.value ?? 'null')).preferences;
    } catch {
      return defaultPreferences();
    }
  }

  /** Cores that one piece of work may take. */
  threads(): number {
    return Number(this.preferences().values.threads) || availableParallelism();
  }

  /** MiB that one piece of work may take. */
  memory(): number {
    return Number(this.preferences().values.memory) || this.config.workerMemory;
  }

  /** Programs of this machine by kind of source, as they were typed. */
  openers(): Record<string, string> {
    const row = this.database.select().from(settings).where(eq(settings.key, OPENERS_KEY)).get();
    return row ? (JSON.parse(row.value) as Record<string, string>) : {};
  }

  setOpeners(change: Record<string, string>): void {
    this.put(OPENERS_KEY, JSON.stringify({ ...this.openers(), ...change }));
  }

  private put(key: string, value: string): void {
    this.database.insert(settings).values({ key, value }).onConflictDoUpdate({ target: settings.key, set: { value } }).run();
  }

  setPreferences(given: unknown): Preferences & { left: string[] } {
    const { preferences, left } = readPreferences(given);
    this.put(PREFERENCES_KEY, JSON.stringify(preferences));
    return { ...preferences, left };
  }
}
