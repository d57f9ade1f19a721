import { Injectable } from '@nestjs/common';
import { Subject } from 'rxjs';

/** Word to every open page that a crate changed other than by a job: its watched folder, for one. */
@Injectable()
export class Notices {
  readonly changed = new Subject<{ crateId: string }>();
  /** A map got new edits; `tab` is the page that made them. */
  readonly edited = new Subject<{ crateId: string; map: string; revision: number; tab: string }>();
  /** Something of a crate was written, whoever did it: its folder is to follow. */
  readonly written = new Subject<{ crateId: string }>();
  /** Files of a crate became others than a page has, and not by a job: its folder was changed by another program. */
  readonly refreshed = new Subject<{ crateId: string }>();
  /** Games on this machine were added, moved or updated. */
  readonly games = new Subject<object>();
  /** How a crate and its folder stand is known anew. */
  readonly folders = new Subject<{ crateId: string }>();
  /** Something is known of a download that was not before. */
  readonly downloads = new Subject<object>();
  /** A package on its way to the workshop has come further, or ended. */
  readonly uploads = new Subject<{ crateId: string }>();
}
