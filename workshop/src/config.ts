export interface Rules {
  /** Hours that an account has to be old before it lists anything. */
  ageHours: number;
  /** Bytes that the packages of one organisation may have together, and one of them. */
  quota: number;
  packageBytes: number;
  /** Days for which what was deleted can be had back. */
  graceDays: number;
  /** Accounts that one address may open in an hour. */
  signUpsPerHour: number;
}

export const DEFAULT_RULES: Rules = { ageHours: 0, quota: 4 * 2 ** 30, packageBytes: 2 ** 30, graceDays: 30, signUpsPerHour: 20 };

export interface WorkshopConfig {
  /** SQLite file. */
  database: string;
  /** Folder of packages, their files and unfinished uploads. */
  files: string;
  /** Token of the account that this machine's workbench publishes with; it is made at the first start. */
  token: string;
  /** Folder of the depot. */
  depot: string;
  rules?: Partial<Rules>;
}

export const CONFIG = Symbol('config');
export type Settings = WorkshopConfig & { rules: Rules };

/** The account of whoever runs the workshop on this machine. */
export const KEEPER = 'keeper';
