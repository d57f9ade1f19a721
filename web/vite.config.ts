import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';

/** Serves the transcoder of compressed textures, which comes with three, under /basis/. */
function basisTranscoder(): Plugin {
  const folder = join(dirname(createRequire(import.meta.url).resolve('three')), '../examples/jsm/libs/basis');
  const names = ['basis_transcoder.js', 'basis_transcoder.wasm'];
  return {
    name: 'basis-transcoder',
    generateBundle() {
      for (const name of names) this.emitFile({ type: 'asset', fileName: `basis/${name}`, source: readFileSync(join(folder, name)) });
    },
    configureServer(server) {
      for (const name of names)
        server.middlewares.use(`/basis/${name}`, (_, response) => {
          response.setHeader('content-type', name.endsWith('.wasm') ? 'application/wasm' : 'text/javascript');
          response.end(readFileSync(join(folder, name)));
        });
    },
  };
}

export default defineConfig({
  plugins: [react(), basisTranscoder()],
  // "source" takes the core from its TypeScript files, without a build between.
  resolve: { conditions: ['source', 'module', 'browser', 'development|production'] },
  worker: { format: 'es' },
  build: { chunkSizeWarningLimit: 1500 },
  server: { proxy: { '/api': 'http://127.0.0.1:4280' } },
});
