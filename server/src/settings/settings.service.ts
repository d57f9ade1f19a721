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

/** What is shown of them: a token is entered, and never given out. */
export type ShownSettings = Pick<Settings, 'workshopUrl' | 'depotUrl'> & { hasToken: boolean };

const originOf = (address: string): string => (URL.canParse(address) ? new URL(address).origin : '');

/** Settings that the user may change; the environment gives their first values. */
@Injectable()
export class SettingsService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  shown(): ShownSettings {
    const { workshopUrl, depotUrl } = this.addresses();
    return { workshopUrl, depotUrl, hasToken: this.tokenFor(workshopUrl) !== null };
  }

  /** The workshop, and what this machine shows there. */
  workshop(): { workshop: string; token: string | null } {
    const { workshopUrl } = this.addresses();
    return { workshop: workshopUrl, token: this.tokenFor(workshopUrl) };
  }

  /** The token, for an address of the very origin that it was entered for; null for any other. */
  tokenFor(address: string): string | null {
    const { workshopToken, tokenOrigin, workshopUrl } = this.own();
    const token = workshopToken ?? this.config.workshopToken;
    const origin =
      workshopToken === undefined ? originOf(this.config.workshopUrl) : (tokenOrigin ?? originOf(workshopUrl ?? this.config.workshopUrl));
    return token !== '' && origin !== '' && origin === originOf(address) ? token : null;
  }

  set(change: Partial<Settings>): ShownSettings {
    const own = this.own();
    // From before tokens had an origin: it is that of the address that they were used with.
    if (own.workshopToken !== undefined && own.tokenOrigin === undefined) this.put('tokenOrigin', originOf(this.addresses().workshopUrl));
    if (typeof change.workshopUrl === 'string') this.put('workshopUrl', change.workshopUrl);
    if (typeof change.depotUrl === 'string') this.put('depotUrl', change.depotUrl);
    if (typeof change.workshopToken === 'string') {
      this.put('workshopToken', change.workshopToken);
      this.put('tokenOrigin', originOf(this.addresses().workshopUrl));
    }
    return this.shown();
  }

  private addresses(): Pick<Settings, 'workshopUrl' | 'depotUrl'> {
    const own = this.own();
    return { workshopUrl: own.workshopUrl ?? this.config.workshopUrl, depotUrl: own.depotUrl ?? this.config.depotUrl };
  }

  private own(): Partial<Record<string, string>> {
    return Object.fromEntries(
      this.database
        .select()
        .from(settings)
        .all()
        .map((row) => [row.key, row.value]),
    );
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
