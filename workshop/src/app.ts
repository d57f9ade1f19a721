import 'reflect-metadata';
import { timingSafeEqual } from 'node:crypto';
import { Controller, Get, Header, Inject, Module, Param, Post, Req, Res } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { sameOrigin } from '@violet-crate/host/sameOrigin';
import helmet from 'helmet';
import express, { type Request, type Response } from 'express';
import { DATABASE, openDatabase } from './database.ts';
import { DEPOT, DepotController } from './depot.controller.ts';
import { listingPage } from './listingPage.ts';
import { Refusal, RefusalFilter } from './refusal.ts';
import { ReleasesService } from './releases.service.ts';

const TOKEN = Symbol('token');

@Controller()
class ReleasesController {
  constructor(
    @Inject(ReleasesService) private readonly releases: ReleasesService,
    @Inject(TOKEN) private readonly token: string,
  ) {}

  @Get()
  @Header('content-type', 'text/html; charset=utf-8')
  page(): string {
    return listingPage(this.releases.list());
  }

  @Get('api/releases')
  list() {
    return this.releases.list();
  }

  @Get('api/releases/:code')
  get(@Param('code') code: string) {
    return this.releases.get(code);
  }

  @Get('api/releases/:code/package')
  package(@Param('code') code: string, @Res() response: Response) {
    response.type('application/zip').send(this.releases.content(code, 'package'));
  }

  @Get('api/releases/:code/thumbnail')
  thumbnail(@Param('code') code: string, @Res() response: Response) {
    response.type('image/png').send(this.releases.content(code, 'thumbnail'));
  }

  @Post('api/releases')
  publish(@Req() request: Request) {
    const given = Buffer.from(/^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? '');
    const wanted = Buffer.from(this.token);
    if (given.length !== wanted.length || !timingSafeEqual(given, wanted)) throw new Refusal(401, 'The token is not right.');
    if (!Buffer.isBuffer(request.body)) throw new Refusal(422, 'Send the package as application/zip.');
    return this.releases.publish(new Uint8Array(request.body));
  }
}

export interface WorkshopConfig {
  /** SQLite file. */
  database: string;
  /** Whoever has it may publish. */
  token: string;
  /** Folder of the depot. */
  depot: string;
}

export async function createWorkshop(config: WorkshopConfig): Promise<NestExpressApplication> {
  @Module({
    controllers: [ReleasesController, DepotController],
    providers: [
      { provide: DATABASE, useFactory: () => openDatabase(config.database) },
      { provide: TOKEN, useValue: config.token },
      { provide: DEPOT, useValue: config.depot },
      ReleasesService,
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
          'style-src': ["'unsafe-inline'"],
          'base-uri': ["'none'"],
          'frame-ancestors': ["'none'"],
        },
      },
      strictTransportSecurity: false,
      xFrameOptions: { action: 'deny' },
    }),
  );
  app.use(sameOrigin);
  app.use(express.raw({ type: 'application/zip', limit: '256mb' }));
  app.useGlobalFilters(new RefusalFilter());
  app.enableShutdownHooks();
  return app;
}
