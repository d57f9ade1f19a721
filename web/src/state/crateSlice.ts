/** The open crate: what the server knows of it, and the scripts' texts. Maps have a slice of their own. */

import { createAsyncThunk, createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { BasePack } from '@violet-crate/core/crate/basePack';
import { LOCK_FILE } from '@violet-crate/core/crate/lock';
import type { RequiredState } from '@violet-crate/core/crate/world';
import { isScript, isText } from '@violet-crate/core/crate/contents';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import type { GameMap } from '@violet-crate/core/document/schema';
import type { Profile } from '@violet-crate/core/profile/schema';
import { getJson, message, request } from '../api/http.ts';
import { scriptTyped, type UnsavedScript } from './scriptsSlice.ts';
import type { GameChange } from '@violet-crate/core/setup/gameChange';
import type { Finding } from '@violet-crate/core/finding';
import type {
  Build,
  CrateGame,
  CrateView,
  FolderState,
  Game,
  Offers,
  PackageEntry,
  ReleaseEntry,
  SetupCheck,
  StepState,
  OpenedFile,
  WatchState,
} from '../api/types.ts';

export interface CrateState {
  status: 'none' | 'loading' | 'ready' | 'error';
  error: string;
  view: CrateView | null;
  profile: Profile | null;
  game: Omit<Game, 'installs'> | null;
  base: BasePack | null;
  /** Other crates that it is made with; what they hold is part of `base`. */
  required?: RequiredState;
  setup: SetupCheck[] | null;
  /** What is done once before the game can be modded. */
  steps: StepState[];
  /** What of the game is other than when somebody last looked. */
  gameChange: GameChange | null;
  /** What a newer version of the profile would mean. */
  newerProfile: CrateGame['newer'];
  /** Newer packs and tools that the depot has; empty where it does not answer. */
  updates: Finding[];
  scripts: Record<string, string>;
  /** Game data by path: tables and conversations. */
  data: Record<string, string>;
  /** Maps of the crate beside the one that is open, which nobody edits here. */
  otherMaps: Record<string, GameMap>;
  builds: Build[] | null;
  packages: PackageEntry[] | null;
  releases: ReleaseEntry[] | null;
  watch: WatchState | null;
  /** Sources that programs of this machine have open. */
  opened: OpenedFile[];
  /** The folder that it lives in, if it lives in one. */
  folder: FolderState | null;
}

const initialState: CrateState = {
  status: 'none',
  error: '',
  view: null,
  profile: null,
  game: null,
  base: null,
  setup: null,
  steps: [],
  gameChange: null,
  newerProfile: null,
  updates: [],
  scripts: {},
  data: {},
  otherMaps: {},
  builds: null,
  packages: null,
  releases: null,
  watch: null,
  opened: [],
  folder: null,
};

/** Scripts and game data as the server has them, but for what is being edited, which is newer here. */
async function loadTexts(view: CrateView, getState: () => unknown): Promise<Pick<CrateState, 'scripts' | 'data'>> {
  const typed = () => {
    const { scripts } = getState() as { scripts: { unsaved: UnsavedScript[] } };
    return scripts.unsaved.flatMap(({ crateId, path, source }) => (crateId === view.id ? [[path, source] as const] : []));
  };
  // What was unsaved when the server was asked may be saved when it has answered.
  const before = typed();
  // One that is damaged on the server's disk is told as a finding; the others open.
  const paths = view.files
    .filter(({ path, findings }) => isText(path) && !findings.some(({ code }) => code === 'file-damaged'))
    .map(({ path }) => path);
  const texts = await Promise.all(paths.map(async (path) => (await request(`/api/crates/${view.id}/files/${path}`)).text()));
  const all = [...paths.map((path, i) => [path, texts[i]] as const), ...before, ...typed()];
  return {
    scripts: Object.fromEntries(all.filter(([path]) => isScript(path))),
    data: Object.fromEntries(all.filter(([path]) => !isScript(path))),
  };
}

async function loadOtherMaps({ id, maps, manifest }: CrateView): Promise<Record<string, GameMap>> {
  const others = maps.filter((name) => name !== manifest.mainMap);
  return Object.fromEntries(
    await Promise.all(others.map(async (name) => [name, (await getJson<{ map: GameMap }>(`/api/crates/${id}/maps/${name}`)).map] as const)),
  );
}

/** Waits until nothing of another crate's map is unsaved: its edits go on being sent meanwhile. */
async function othersSaved(id: string, getState: () => unknown): Promise<void> {
  for (;;) {
    const { map } = getState() as { map: { crateId: string; unsaved: unknown[]; saveState: string } };
    if (map.crateId === id || map.unsaved.length === 0 || map.saveState === 'conflict') return;
    await new Promise((done) => setTimeout(done, SAVED_POLL));
  }
}

/** Milliseconds. */
const SAVED_POLL = 50;

export const openCrate = createAsyncThunk('crate/open', async (id: string, { getState }) => {
  await othersSaved(id, getState);
  const view = await getJson<CrateView>(`/api/crates/${id}`);
  const [{ profile, install, change, newer }, { base, required, setup, steps }, texts, otherMaps, map, builds, published, { watch }, { folder }] =
    await Promise.all([
      getJson<CrateGame>(`/api/crates/${id}/game`),
      lookAtInstall(view),
      loadTexts(view, getState),
      loadOtherMaps(view),
      getJson<{ map: GameMap; revision: number }>(`/api/crates/${id}/maps/${view.manifest.mainMap}`),
      getJson<Build[]>(`/api/crates/${id}/builds`),
      getJson<{ packages: PackageEntry[]; releases: ReleaseEntry[] }>(`/api/crates/${id}/packages`),
      getJson<{ watch: WatchState | null }>(`/api/crates/${id}/watch`),
      loadFolder(id),
    ]);
  const game = { profile, folder: install.folder, version: install.version };
  return {
    view,
    game,
    base,
    required,
    setup,
    steps,
    gameChange: change,
    newerProfile: newer,
    ...texts,
    otherMaps,
    map,
    mapName: view.manifest.mainMap,
    builds,
    watch,
    folder,
    ...published,
  };
});

const loadFolder = (id: string) => getJson<{ folder: FolderState | null }>(`/api/crates/${id}/folder`);

export const refreshFolder = createAsyncThunk('crate/refreshFolder', async (id: string) => (await loadFolder(id)).folder);

const loadStock = (id: string) => getJson<{ base: BasePack; required: RequiredState }>(`/api/crates/${id}/stock`);

/** What may be used of the game and of required crates, after some of it came. */
export const refreshStock = createAsyncThunk('crate/refreshStock', loadStock);

export const refreshFiles = createAsyncThunk('crate/refreshFiles', async (id: string, { getState }) => {
  const view = await getJson<CrateView>(`/api/crates/${id}`);
  const lockOf = (one: CrateView | null) => one?.files.find(({ path }) => path === LOCK_FILE)?.sha256;
  const { crate } = getState() as { crate: CrateState };
  const [texts, otherMaps, stock] = await Promise.all([
    loadTexts(view, getState),
    loadOtherMaps(view),
    lockOf(view) === lockOf(crate.view) ? null : loadStock(id),
  ]);
  return { view, ...texts, otherMaps, stock };
});

export const refreshWatch = createAsyncThunk(
  'crate/refreshWatch',
  async (id: string) => (await getJson<{ watch: WatchState | null }>(`/api/crates/${id}/watch`)).watch,
);

export const refreshOpened = createAsyncThunk('crate/refreshOpened', (id: string) => getJson<OpenedFile[]>(`/api/crates/${id}/opened`));

export const refreshBuilds = createAsyncThunk('crate/refreshBuilds', (id: string) => getJson<Build[]>(`/api/crates/${id}/builds`));

export const refreshPackages = createAsyncThunk('crate/refreshPackages', (id: string) =>
  getJson<{ packages: PackageEntry[]; releases: ReleaseEntry[] }>(`/api/crates/${id}/packages`),
);

/** After any change: do builds and packages still match the crate? */
export const refreshFreshness = createAsyncThunk('crate/refreshFreshness', async (id: string, { dispatch }) => {
  await Promise.all([dispatch(refreshBuilds(id)), dispatch(refreshPackages(id))]);
});

async function lookAtInstall({
  id,
  manifest,
  install,
}: CrateView): Promise<Pick<CrateState, 'steps' | 'required'> & { setup: SetupCheck[]; base: BasePack }> {
  const of = (what: string) => `/api/games/${manifest.profile}/${what}?install=${install}`;
  const [setup, { base, required }, steps] = await Promise.all([
    getJson<SetupCheck[]>(of('checks')),
    loadStock(id),
    getJson<StepState[]>(of('preparation')),
  ]);
  return { setup, base, required, steps };
}

/** Looks at the game of the open crate anew: checks, stock, preparation, and whether it is another one now. */
export const refreshSetup = createAsyncThunk('crate/refreshSetup', async (id: string) => {
  const view = await getJson<CrateView>(`/api/crates/${id}`);
  const [looked, { profile, install, change, newer }] = await Promise.all([lookAtInstall(view), getJson<CrateGame>(`/api/crates/${id}/game`)]);
  return { ...looked, view, profile, game: { profile, folder: install.folder, version: install.version }, gameChange: change, newerProfile: newer };
});

/** Asks the depot for updates; a depot that does not answer has none. */
export const refreshUpdates = createAsyncThunk('crate/refreshUpdates', async ({ manifest, install }: CrateView) =>
  getJson<Offers>(`/api/depot/games/${manifest.profile}?install=${install}`).then(
    ({ findings }) => findings,
    () => [],
  ),
);

const slice = createSlice({
  name: 'crate',
  initialState,
  reducers: {
    manifestChanged(state, action: PayloadAction<CrateManifest>) {
      if (state.view) state.view.manifest = action.payload;
    },
    openedChanged(state, action: PayloadAction<OpenedFile[]>) {
      state.opened = action.payload;
    },
    watchChanged(state, action: PayloadAction<WatchState | null>) {
      state.watch = action.payload;
    },
    folderChanged(state, action: PayloadAction<FolderState | null>) {
      state.folder = action.payload;
    },
  },
  extraReducers: (builder) =>
    builder
      .addCase(scriptTyped, (state, { payload: { crateId, path, source } }) => {
        if (state.view?.id === crateId) state[isScript(path) ? 'scripts' : 'data'][path] = source;
      })
      .addCase(openCrate.pending, (state, action) => {
        if (state.view?.id !== action.meta.arg) Object.assign(state, initialState, { status: 'loading' });
      })
      .addCase(openCrate.rejected, (state, action) => {
        state.status = 'error';
        state.error = message(action.error.message ?? 'The crate could not be loaded.');
      })
      .addCase(openCrate.fulfilled, (state, { payload }) => {
        const {
          view,
          game,
          base,
          required,
          setup,
          steps,
          gameChange,
          newerProfile,
          scripts,
          data,
          otherMaps,
          builds,
          packages,
          releases,
          watch,
          folder,
        } = payload;
        Object.assign(state, {
          status: 'ready',
          error: '',
          view,
          game,
          profile: game.profile,
          base,
          required,
          setup,
          steps,
          gameChange,
          newerProfile,
          scripts,
          data,
          otherMaps,
          builds,
          packages,
          releases,
          watch,
          opened: [],
          folder,
        });
      })
      .addCase(refreshFiles.fulfilled, (state, { payload }) => {
        const { stock, ...files } = payload;
        Object.assign(state, files, stock);
      })
      .addCase(refreshStock.fulfilled, (state, { payload, meta }) => {
        if (state.view?.id === meta.arg) Object.assign(state, payload);
      })
      .addCase(refreshWatch.fulfilled, (state, { payload }) => {
        state.watch = payload;
      })
      .addCase(refreshOpened.fulfilled, (state, { payload, meta }) => {
        if (state.view?.id === meta.arg) state.opened = payload;
      })
      .addCase(refreshFolder.fulfilled, (state, { payload }) => {
        state.folder = payload;
      })
      .addCase(refreshBuilds.fulfilled, (state, { payload }) => {
        state.builds = payload;
      })
      .addCase(refreshPackages.fulfilled, (state, { payload }) => {
        Object.assign(state, payload);
      })
      .addCase(refreshSetup.fulfilled, (state, { payload }) => {
        if (state.view?.id === payload.view.id) Object.assign(state, payload);
      })
      .addCase(refreshUpdates.fulfilled, (state, { payload }) => {
        state.updates = payload;
      }),
});

export const { manifestChanged, openedChanged, watchChanged, folderChanged } = slice.actions;
export const crateReducer = slice.reducer;
