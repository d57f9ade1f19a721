import { Module, type DynamicModule } from '@nestjs/common';
import { APP_GUARD } from '@nestjs/core';
import { AssetsController } from './assets/assets.controller.ts';
import { ImportsService } from './assets/imports.service.ts';
import { BanksController } from './banks/banks.controller.ts';
import { BanksService } from './banks/banks.service.ts';
import { BlobStore } from '@violet-crate/host/blobStore';
import { BoundFoldersController, OpenFolderController } from './bound/boundFolders.controller.ts';
import { BoundFoldersService } from './bound/boundFolders.service.ts';
import { BuildsController } from './builds/builds.controller.ts';
import { BuildsService } from './builds/builds.service.ts';
import { CONFIG, type Config } from './config.ts';
import { CratesController } from './crates/crates.controller.ts';
import { CratesService } from './crates/crates.service.ts';
import { ShelfService } from './crates/shelf.service.ts';
import { KnownCrateGuard } from './crates/knownCrate.guard.ts';
import { DATABASE, openDatabase } from './database/database.ts';
import { CommunityController } from './depot/community.controller.ts';
import { CommunityService } from './depot/community.service.ts';
import { DepotController } from './depot/depot.controller.ts';
import { DepotService } from './depot/depot.service.ts';
import { Consents } from './consents/consents.ts';
import { FoldersController } from './folders/folders.controller.ts';
import { GamesController } from './games/games.controller.ts';
import { GamesService } from './games/games.service.ts';
import { ProfilesController } from './games/profiles.controller.ts';
import { ProfilesService } from './games/profiles.service.ts';
import { JobsController } from './jobs/jobs.controller.ts';
import { JobsService } from './jobs/jobs.service.ts';
import { LaunchController } from './launch/launch.controller.ts';
import { LaunchService } from './launch/launch.service.ts';
import { LibraryController } from './library/library.controller.ts';
import { LibraryService } from './library/library.service.ts';
import { CrateEditsService } from './links/crateEdits.service.ts';
import { LinksController } from './links/links.controller.ts';
import { RequiredController } from './links/required.controller.ts';
import { RequiredService } from './links/required.service.ts';
import { ModsController, WorkshopPicturesController } from './mods/mods.controller.ts';
import { ModsService } from './mods/mods.service.ts';
import { Notices } from './notices/notices.ts';
import { PacksController } from './packs/packs.controller.ts';
import { PacksService } from './packs/packs.service.ts';
import { PicturesController } from './release/pictures.controller.ts';
import { PublishingService } from './release/publishing.service.ts';
import { ReleaseController } from './release/release.controller.ts';
import { PreferencesController } from './settings/preferences.controller.ts';
import { SettingsController } from './settings/settings.controller.ts';
import { SettingsService } from './settings/settings.service.ts';
import { SpaceController } from './space/space.controller.ts';
import { SpaceService } from './space/space.service.ts';
import { OpenedController, ProgramsController } from './opening/opening.controller.ts';
import { OpeningService } from './opening/opening.service.ts';
import { TogetherController } from './together/together.controller.ts';
import { TogetherGateway } from './together/together.gateway.ts';
import { TogetherService } from './together/together.service.ts';
import { VersionsController } from './versions/versions.controller.ts';
import { VersionsService } from './versions/versions.service.ts';
import { WatchController } from './watch/watch.controller.ts';
import { WatchService } from './watch/watch.service.ts';

@Module({})
export class AppModule {
  static with(config: Config): DynamicModule {
    return {
      module: AppModule,
      controllers: [
        GamesController,
        ProfilesController,
        DepotController,
        CommunityController,
        FoldersController,
        CratesController,
        JobsController,
        AssetsController,
        BanksController,
        LibraryController,
        LinksController,
        RequiredController,
        LaunchController,
        PacksController,
        WatchController,
        ProgramsController,
        OpenedController,
        VersionsController,
        BoundFoldersController,
        OpenFolderController,
        BuildsController,
        ReleaseController,
        PicturesController,
        ModsController,
        WorkshopPicturesController,
        SettingsController,
        PreferencesController,
        SpaceController,
        TogetherController,
      ],
      providers: [
        { provide: CONFIG, useValue: config },
        { provide: DATABASE, useFactory: () => openDatabase(config.database) },
        { provide: BlobStore, useValue: new BlobStore(config.blobs) },
        Consents,
        ProfilesService,
        GamesService,
        CratesService,
        JobsService,
        Notices,
        ImportsService,
        BanksService,
        LibraryService,
        CrateEditsService,
        RequiredService,
        ModsService,
        PublishingService,
        LaunchService,
        PacksService,
        WatchService,
        OpeningService,
        BoundFoldersService,
        VersionsService,
        BuildsService,
        SettingsService,
        ShelfService,
        DepotService,
        CommunityService,
        SpaceService,
        TogetherService,
        TogetherGateway,
        { provide: APP_GUARD, useClass: KnownCrateGuard },
      ],
    };
  }
}
