import 'reflect-metadata';
import { ValidationPipe } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger';
import { isTooDeep, MOST_DEPTH } from '@violet-crate/core/jsonDepth';
import { sameOrigin } from '@violet-crate/host/sameOrigin';
import express from 'express';
import { AppModule } from './app.module.ts';
import type { Config } from './config.ts';
import { Problem, ProblemFilter } from './http/problem.ts';
import { securityHeaders } from './http/headers.ts';
import { webPages } from './http/webPages.ts';

/** Bytes of a request's document. */
const MOST_JSON = 32 << 20;

/** Before it is parsed: what checks a document walks through it, and would run out of stack. */
function refuseDepth(_request: unknown, _response: unknown, body: Uint8Array): void {
  if (isTooDeep(body)) throw new Problem(400, 'request', `The request is nested more than ${MOST_DEPTH} levels deep.`);
}

/** The whole server, not yet listening: tests and `main` start from here. */
export async function createApp(config: Config): Promise<NestExpressApplication> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(config), {
    bodyParser: false,
    logger: ['error', 'warn'],
    forceCloseConnections: true,
  });
  app.use(securityHeaders);
  app.use(sameOrigin);
  app.use(express.json({ limit: MOST_JSON, verify: refuseDepth }));
  app.useGlobalPipes(new ValidationPipe({ whitelist: true, forbidNonWhitelisted: true, transform: true }));
  app.useGlobalFilters(new ProblemFilter(config.data));
  app.enableShutdownHooks();

  const openApi = new DocumentBuilder()
    .setTitle('Violet Crate')
    .setDescription('The HTTP interface of the workbench. Errors are problem details (RFC 9457).')
    .setVersion('1')
    .build();
  SwaggerModule.setup('api/docs', app, SwaggerModule.createDocument(app, openApi));

  for (const handler of webPages(config.web)) app.use(handler);
  return app;
}
