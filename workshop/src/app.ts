import 'reflect-metadata';
import { mkdirSync } from 'node:fs';
import { Module, ValidationPipe } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { sameOrigin } from '@violet-crate/host/sameOrigin';
import helmet from 'helmet';
import express from 'express';
import { AccessGuard } from './accounts/access.ts';
import { AccountsService } from './accounts/accounts.service.ts';
import { findViewer } from './accounts/viewer.ts';
import { CONFIG, DEFAULT_RULES, type Settings, type WorkshopConfig } from './config.ts';
import { DATABASE, openDatabase } from './database.ts';
import { DEPOT, DepotController } from './depot.controller.ts';
import { ModsController } from './mods/mods.controller.ts';
import { ModsService } from './mods/mods.service.ts';
import { UPLOADS, UploadsService } from './mods/uploads.service.ts';
import { OrganisationsService } from './organisations/organisations.service.ts';
import { RefusalFilter } from './refusal.ts';
import { SiteController } from './site/site.controller.ts';
import { TalkService } from './talk/talk.service.ts';

export async function createWorkshop(config: WorkshopConfig): Promise<NestExpressApplication> {
  const settings: Settings = { ...config, rules: { ...DEFAULT_RULES, ...config.rules } };
  mkdirSync(config.files, { recursive: true });
  @Module({
    controllers: [ModsController, DepotController, SiteController],
    providers: [
      { provide: DATABASE, useFactory: () => openDatabase(config.database) },
      { provide: CONFIG, useValue: settings },
      { provide: DEPOT, useValue: config.depot },
      AccessGuard,
      AccountsService,
      OrganisationsService,
      ModsService,
      UploadsService,
      TalkService,
    ],
  })
  class WorkshopModule {}

  const app = await NestFactory.create<NestExpressApplication>(WorkshopModule, {
    bodyParser: false,
    logger: ['error', 'warn'],
    forceCloseConnections: true,
  });
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          'default-src': ["'none'"],
          'img-src': ["'self'"],
          'script-src': ["'self'"],
          // Charts carry styles of their own.
          'style-src': ["'self'", "'unsafe-inline'"],
          'form-action': ["'self'"],
          'base-uri': ["'none'"],
          'frame-ancestors': ["'none'"],
        },
      },
      // Without a referrer browsers say of forms that they come from nowhere, and nobody could sign in.
      referrerPolicy: { policy: 'same-origin' },
      strictTransportSecurity: false,
      xFrameOptions: { action: 'deny' },
    }),
  );
  app.useGlobalGuards(app.get(AccessGuard));
  app.use(sameOrigin);
  app.use(findViewer(app.get(AccountsService)));
  // Before any parser: an upload is a stream.
  app.use(UPLOADS, (request: express.Request, response: express.Response, next: express.NextFunction) => {
    if (/^\/[0-9a-f]{16,64}\/release$/.test(request.path)) return next();
    app.get(UploadsService).handle(request, response);
  });
  app.use(express.json({ limit: '256kb' }));
  app.use(express.urlencoded({ extended: false, limit: '256kb' }));
  app.useGlobalPipes(new ValidationPipe({ whitelist: true, transform: true, expectedType: undefined }));
  app.useGlobalFilters(new RefusalFilter());
  app.enableShutdownHooks();
  await app.get(ModsService).takeOver();
  app.get(ModsService).clearDeleted();
  return app;
}
