import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';
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

/** Writes compressed copies beside what shrinks, so that the server only has to choose. */
function precompressed(): Plugin {
  let folder = '';
  return {
    name: 'precompressed',
    apply: 'build',
    configResolved: (config) => void (folder = join(config.root, config.build.outDir)),
    closeBundle() {
      for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
        if (!entry.isFile() || !/\.(js|css|html|svg|wasm|json)$/.test(entry.name)) continue;
        const file = join(entry.parentPath, entry.name);
        const bytes = readFileSync(file);
        if (bytes.length < 1024) continue;
        writeFileSync(`${file}.br`, brotliCompressSync(bytes, { params: { [constants.BROTLI_PARAM_QUALITY]: 9 } }));
        writeFileSync(`${file}.gz`, gzipSync(bytes, { level: 9 }));
      }
    },
  };
}

export default defineConfig({
  plugins: [react(), basisTranscoder(), precompressed()],
  // "source" takes the core from its TypeScript files, without a build between.
  resolve: { conditions: ['source', 'module', 'browser', 'development|production'] },
  worker: { format: 'es' },
  build: { chunkSizeWarningLimit: 1500 },
  server: { proxy: { '/api': 'http://127.0.0.1:4280' } },
});
