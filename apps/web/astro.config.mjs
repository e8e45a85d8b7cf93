import node from '@astrojs/node';
import react from '@astrojs/react';
import { defineConfig } from 'astro/config';

const isolation = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
};

export default defineConfig({
  output: 'server',
  adapter: node({ mode: 'standalone' }),
  integrations: [react()],
  devToolbar: { enabled: false },
  server: { host: '127.0.0.1', headers: isolation },
  vite: {
    worker: { format: 'es' },
    ssr: { external: ['libsql', 'sharp', 'pino', 'piscina', 'gltf-validator'] },
    optimizeDeps: { entries: ['src/views/**/*.tsx', 'src/stage/**/*.tsx'], exclude: ['meshoptimizer'] },
  },
});
