/** What has to be true before somebody may list a mod for everybody, and what of it is. */

import type { Rules } from '../config.ts';

export interface Condition {
  id: 'age' | 'mail' | 'terms' | 'tested';
  met: boolean;
  text: string;
}

export interface Standing {
  createdAt: string;
  confirmedAt: string | null;
  termsAt: string | null;
}

/** @param tested whether somebody else has said of a version of the mod that it works */
export function eligibility(account: Standing, tested: boolean, { ageHours }: Pick<Rules, 'ageHours'>, now = Date.now()): Condition[] {
  const hours = (now - Date.parse(account.createdAt)) / 3_600_000;
  return [
    {
      id: 'age',
      met: hours >= ageHours,
      text: ageHours === 0 ? 'The account is there.' : `The account is at least ${ageHours} hours old.`,
    },
    { id: 'mail', met: account.confirmedAt !== null, text: 'Its mail address is confirmed.' },
    { id: 'terms', met: account.termsAt !== null, text: 'The terms are accepted.' },
    { id: 'tested', met: tested, text: 'Somebody else has tested a private release and said that it works.' },
  ];
}
