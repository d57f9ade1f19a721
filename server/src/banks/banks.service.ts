import { join } from 'node:path';
import { Injectable } from '@nestjs/common';
import { applyBankPatch, makeBankPatch, patchNotePath, patchPath, readBankPatch } from '@violet-crate/core/bank/bankPatch';
import type { BankDocument } from '@violet-crate/core/bank/document';
import { knownVersion } from '@violet-crate/core/bank/known';
import type { BankLayout } from '@violet-crate/core/bank/layout';
import type { BankEntry, BankReport, BankView } from '@violet-crate/core/bank/views';
import { runApart } from '@violet-crate/host/apart';
import { isFileInside, readInside } from '@violet-crate/host/inside';
import type { GameInstall } from '@violet-crate/host/setup/readFacts';
import { CratesService } from '../crates/crates.service.ts';
import { notFound, Problem } from '../http/problem.ts';
import type { BankOrder, Opened, Written } from './bankWork.ts';

/** Bytes of a bank, and what reading and writing one may take. */
const MOST_BYTES = 2 ** 29;
const LIMITS = { memory: 2048, seconds: 120 };

/** Banks of a crate's game as the crate changes them: the original in the install is only read, and the crate keeps a patch. */
@Injectable()
export class BanksService {
  constructor(private readonly crates: CratesService) {}

  list(crateId: string): BankEntry[] {
    const game = this.crates.game(crateId);
    return (game.profile.banks ?? []).map((bank) => this.entry(crateId, game, bank));
  }

  async open(crateId: string, id: string, anyway: boolean): Promise<BankView> {
    const { entry, layout, original, bytes } = this.read(crateId, id, anyway);
    const opened = await this.apart<Opened>(entry.title, { act: 'open', layout, original, bytes, changed: entry.changed });
    return { ...entry, layout, bytes: bytes.length, ...opened };
  }

  bytes(crateId: string, id: string): Uint8Array {
    return this.read(crateId, id, true).bytes;
  }

  /** @param plan only says what would become of it */
  async write(crateId: string, id: string, document: BankDocument, places: Record<string, number>, plan: boolean): Promise<BankReport> {
    const { entry, layout, original, bytes, bank } = this.read(crateId, id, false);
    const title = `The bank ${id}`;
    const { made, report } = await this.apart<Written>(entry.title, { act: 'write', layout, bytes, document, places, title });
    if (!plan) this.keep(crateId, id, bank.file, original, made);
    return report;
  }

  private apart<T>(title: string, order: BankOrder): Promise<T> {
    return runApart<T>(join(import.meta.dirname, 'bankThread.js'), order, `The bank ${title}`, LIMITS);
  }

  /** Back to the game's own. */
  reset(crateId: string, id: string): void {
    this.bank(crateId, id);
    const there = new Set(this.crates.view(crateId).files.map(({ path }) => path));
    this.crates.dropFiles(
      crateId,
      [patchPath(id), patchNotePath(id)].filter((path) => there.has(path)),
    );
  }

  private keep(crateId: string, id: string, file: string, original: Uint8Array, made: Uint8Array): void {
    if (Buffer.from(original).equals(made)) return this.reset(crateId, id);
    const { note, patch } = makeBankPatch(id, file, original, made);
    const text = new TextEncoder().encode(JSON.stringify(note, null, 2) + '\n');
    this.crates.writeFiles(crateId, [
      { path: patchPath(id), bytes: patch },
      { path: patchNotePath(id), bytes: text },
    ]);
  }

  private bank(crateId: string, id: string) {
    const game = this.crates.game(crateId);
    const bank = (game.profile.banks ?? []).find(({ layout }) => layout.id === id);
    if (!bank) throw notFound(`bank ${id}`);
    return { game, bank };
  }

  private entry(crateId: string, game: GameInstall, { file, layout }: { file: string; layout: BankLayout }): BankEntry {
    const there = isFileInside(game.folder, file);
    return {
      id: layout.id,
      title: layout.title,
      file,
      there,
      version: there ? knownVersion(readInside(game.folder, file, MOST_BYTES)!, layout) : null,
      changed: this.crates.view(crateId).files.some(({ path }) => path === patchNotePath(layout.id)),
    };
  }

  private read(crateId: string, id: string, anyway: boolean) {
    const { game, bank } = this.bank(crateId, id);
    const entry = this.entry(crateId, game, bank);
    if (!entry.there) throw new Problem(409, 'bank-missing', `${bank.file} is not in ${game.folder}. Repair the game under Set-up.`);
    const original = readInside(game.folder, bank.file, MOST_BYTES)!;
    if (entry.version === null && !anyway)
      throw new Problem(
        409,
        'bank-unknown',
        `${bank.file} is none of the versions that are known (${bank.layout.known.map(({ version }) => version).join(', ')}). It can be looked at, and not changed.`,
      );
    const bytes = entry.changed
      ? applyBankPatch(
          original,
          readBankPatch(this.crates.readFile(crateId, patchNotePath(id)), patchNotePath(id)),
          this.crates.readFile(crateId, patchPath(id)),
          patchPath(id),
        )
      : original;
    return { entry, bank, layout: bank.layout, original, bytes };
  }
}
