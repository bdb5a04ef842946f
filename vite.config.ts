import { reactRouter } from '@react-router/dev/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

export default defineConfig(({ isSsrBuild }) => ({
  plugins: [tailwindcss(), reactRouter()],
  build: {
    // The server build starts at our own web server, which takes the routes in as a virtual module.
    rollupOptions: isSsrBuild ? { input: './server/web.ts' } : undefined,
    assetsInlineLimit: 0,
  },
}));
