import { Injectable, type CanActivate, type ExecutionContext } from '@nestjs/common';
import type { Request } from 'express';
import { CratesService } from './crates.service.ts';

/** Whatever is asked of a crate, the crate has to be there: no feature has to look for itself. */
@Injectable()
export class KnownCrateGuard implements CanActivate {
  constructor(private readonly crates: CratesService) {}

  canActivate(context: ExecutionContext): boolean {
    const { route, params } = context.switchToHttp().getRequest<Request & { route: { path: string } }>();
    if (route.path.startsWith('/api/crates/:id')) this.crates.expect(String(params.id));
    return true;
  }
}
