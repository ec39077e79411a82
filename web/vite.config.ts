import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { compressAssets } from './compress-assets.ts';

export default defineConfig({
  plugins: [react(), compressAssets()],
  resolve: { conditions: ['source', 'module', 'browser', 'import', 'default'] },
  build: { target: 'es2022', chunkSizeWarningLimit: 1500, sourcemap: false },
  server: { port: 4781, proxy: { '/api': `http://127.0.0.1:${process.env['PORT'] ?? '4780'}` } },
});
