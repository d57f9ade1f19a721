import 'reflect-metadata';
import { ValidationPipe } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { WsAdapter } from '@nestjs/platform-ws';
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger';
import { sameOrigin } from '@violet-crate/host/sameOrigin';
import { AppModule } from './app.module.ts';
import type { Config } from './config.ts';
import { jsonBody } from './http/jsonBody.ts';
import { ProblemFilter } from './http/problem.ts';
import { securityHeaders } from './http/headers.ts';
import { webPages } from './http/webPages.ts';

/** The whole server, not yet listening: tests and `main` start from here. */
export async function createApp(config: Config): Promise<NestExpressApplication> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(config), {
    bodyParser: false,
    logger: ['error', 'warn'],
    forceCloseConnections: true,
  });
  app.useWebSocketAdapter(new WsAdapter(app));
  app.use(securityHeaders);
  app.use(sameOrigin);
  app.use(jsonBody);
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
