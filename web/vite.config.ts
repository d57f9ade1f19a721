import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';
import react from '@vitejs/plugin-react';
import { KTX2Loader as Loader } from 'three/examples/jsm/loaders/KTX2Loader.js';
import { defineConfig, type Plugin } from 'vite';

/** Parts of the loader that its types leave out. */
const KTX2Loader = Loader as unknown as Record<'EngineFormat' | 'EngineType' | 'TranscoderFormat' | 'BasisFormat' | 'BasisWorker', object>;

/**
 * Serves the transcoder of compressed textures under /basis/: its WebAssembly, and its worker as a file, which three would
 * write into a blob at run time.
 */
function basisTranscoder(): Plugin {
  const folder = join(dirname(createRequire(import.meta.url).resolve('three')), '../examples/jsm/libs/basis');
  const wasm = () => readFileSync(join(folder, 'basis_transcoder.wasm'));
  const worker = () => {
    const body = KTX2Loader.BasisWorker.toString();
    return [
      ...(['EngineFormat', 'EngineType', 'TranscoderFormat', 'BasisFormat'] as const).map(
        (name) => `let _${name} = ${JSON.stringify(KTX2Loader[name])}`,
      ),
      readFileSync(join(folder, 'basis_transcoder.js'), 'utf8'),
      body.slice(body.indexOf('{') + 1, body.lastIndexOf('}')),
    ].join('\n');
  };
  return {
    name: 'basis-transcoder',
    generateBundle() {
      this.emitFile({ type: 'asset', fileName: 'basis/basis_transcoder.wasm', source: wasm() });
      this.emitFile({ type: 'asset', fileName: 'basis/worker.js', source: worker() });
    },
    configureServer(server) {
      const serve = (name: string, type: string, content: () => Buffer | string) =>
        server.middlewares.use(`/basis/${name}`, (_, response) => response.setHeader('content-type', type).end(content()));
      serve('basis_transcoder.wasm', 'application/wasm', wasm);
      serve('worker.js', 'text/javascript', worker);
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
