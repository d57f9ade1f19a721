import { Injectable } from '@nestjs/common';
import { Subject } from 'rxjs';

/** Word to every open page that a crate changed other than by a job: its watched folder, for one. */
@Injectable()
export class Notices {
  readonly changed = new Subject<{ crateId: string }>();
}
