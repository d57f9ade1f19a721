import { Injectable } from '@nestjs/common';
import { Subject } from 'rxjs';

/** Word to every open page that a crate changed other than by a job: its watched folder, for one. */
@Injectable()
export class Notices {
  readonly changed = new Subject<{ crateId: string }>();
  /** A map got new edits; `tab` is the page that made them. */
  readonly edited = new Subject<{ crateId: string; map: string; revision: number; tab: string }>();
}
