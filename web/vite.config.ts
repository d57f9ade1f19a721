import { createReadStream, cpSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';

const transcoder = join(dirname(createRequire(import.meta.url).resolve('three/package.json')), 'examples/jsm/libs/basis');

/** Serves three's Basis transcoder from the application itself, in development and in the build. */
function basisTranscoder(): Plugin {
  return {
    name: 'basis-transcoder',
    configureServer(server) {
      server.middlewares.use('/basis', (request, response, next) => {
        const name = (request.url ?? '').replace(/[?#].*/, '').slice(1);
        if (!/^basis_transcoder\.(js|wasm)$/.test(name)) return next();
        response.setHeader('content-type', name.endsWith('.wasm') ? 'application/wasm' : 'text/javascript');
        createReadStream(join(transcoder, name)).pipe(response);
      });
    },
    writeBundle(options) {
      for (const name of ['basis_transcoder.js', 'basis_transcoder.wasm']) cpSync(join(transcoder, name), join(options.dir!, 'basis', name));
    },
  };
}

export default defineConfig({
  plugins: [react(), basisTranscoder()],
  resolve: { conditions: ['source', 'module', 'browser', 'development|production'] },
  worker: { format: 'es' },
  build: { chunkSizeWarningLimit: 2500 },
  server: { proxy: { '/api': 'http://127.0.0.1:4280' } },
});
