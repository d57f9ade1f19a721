/** Who may ask what: every route says it, and one guard holds all of them to it. A route that says nothing is closed. */

import { Injectable, SetMetadata, type CanActivate, type ExecutionContext } from '@nestjs/common';
import { Reflector } from '@nestjs/core';
import type { Request } from 'express';
import { Refusal } from '../refusal.ts';
import type { Scope } from '../schema.ts';
import { needViewer, viewerOf, withoutViewer } from './viewer.ts';

/**
 * `anyone`: whoever asks, who sees more where a session or a token that may read says who it is. `person`: pages and forms, which
 * programs have no business with. A scope: a session, or a token that has it.
 */
export type Access = 'anyone' | 'person' | Scope;

export const ACCESS = 'access';
export const For = (access: Access): MethodDecorator & ClassDecorator => SetMetadata(ACCESS, access);

@Injectable()
export class AccessGuard implements CanActivate {
  constructor(private readonly reflector: Reflector) {}

  canActivate(context: ExecutionContext): boolean {
    const request = context.switchToHttp().getRequest<Request>();
    const access = this.reflector.getAllAndOverride<Access | undefined>(ACCESS, [context.getHandler(), context.getClass()]);
    if (access === undefined) throw new Refusal(403, 'This address is closed.');
    if (access === 'person') {
      if (request.headers.authorization !== undefined) throw new Refusal(403, 'This page is for people; programs use the addresses under /api.');
    } else if (access === 'anyone') {
      const scopes = viewerOf(request)?.scopes;
      if (scopes && scopes !== 'all' && !scopes.includes('read')) withoutViewer(request);
    } else needViewer(request, access);
    return true;
  }
}
