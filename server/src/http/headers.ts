import helmet from 'helmet';

/**
 * Headers that keep a page from doing what it never needs: no scripts but the application's own files, no frames
 * around it. WebAssembly has to be compiled (Lua, textures, physics). Styles may stand in the page, since the editor and charts write theirs at run time.
 */
export const securityHeaders = helmet({
  contentSecurityPolicy: {
    useDefaults: false,
    directives: {
      'default-src': ["'self'"],
      'script-src': ["'self'", "'wasm-unsafe-eval'"],
      'worker-src': ["'self'"],
      'style-src': ["'self'", "'unsafe-inline'"],
      'font-src': ["'self'", 'data:'],
      'img-src': ["'self'", 'data:', 'blob:'],
      'media-src': ["'self'", 'data:', 'blob:'],
      'connect-src': ["'self'", 'data:', 'blob:'],
      'object-src': ["'none'"],
      'base-uri': ["'none'"],
      'form-action': ["'self'"],
      'frame-ancestors': ["'none'"],
    },
  },
  // Plain HTTP on this machine: there is no other.
  strictTransportSecurity: false,
  xFrameOptions: { action: 'deny' },
});
