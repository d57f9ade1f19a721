import 'reflect-metadata';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { ValidationPipe } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger';
import express, { type NextFunction, type Request, type Response } from 'express';
import { AppModule } from './app.module.ts';
import type { Config } from './config.ts';
import { ProblemFilter } from './http/problem.ts';
import { sameOrigin } from './http/sameOrigin.ts';

/** The whole server, not yet listening: tests and `main` start from here. */
export async function createApp(config: Config): Promise<NestExpressApplication> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(config), {
    bodyParser: false,
    logger: ['error', 'warn'],
    forceCloseConnections: true,
  });
  app.use(sameOrigin);
  app.use(express.json({ limit: '32mb' }));
  app.useGlobalPipes(new ValidationPipe({ whitelist: true, forbidNonWhitelisted: true, transform: true }));
  app.useGlobalFilters(new ProblemFilter(config.data));
  app.enableShutdownHooks();

  const openApi = new DocumentBuilder()
    .setTitle('Violet Crate')
    .setDescription('The HTTP interface of the workbench. Errors are problem details (RFC 9457).')
    .setVersion('1')
    .build();
  SwaggerModule.setup('api/docs', app, SwaggerModule.createDocument(app, openApi));

  if (existsSync(join(config.web, 'index.html'))) {
    app.useStaticAssets(config.web, {
      index: 'index.html',
      maxAge: '1h',
      setHeaders: (response: Response, path: string) => path.endsWith('index.html') && response.setHeader('cache-control', 'no-cache'),
    });
    // Every address of the web application is its index page; the router in it takes over.
    app.use((request: Request, response: Response, next: NextFunction) => {
      if (request.method === 'GET' && !request.path.startsWith('/api') && request.accepts('html'))
        response.setHeader('cache-control', 'no-cache').sendFile(join(config.web, 'index.html'));
      else next();
    });
  }
  return app;
}
