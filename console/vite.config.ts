import tailwindcss from '@tailwindcss/vite'
import { defineConfig } from 'vite'

export default defineConfig({
  base: './', // the page says where it is: see index.html as it is served
  plugins: [tailwindcss()],
  esbuild: { jsx: 'automatic' },
  build: {
    outDir: 'dist/site',
    emptyOutDir: true,
    assetsInlineLimit: 0, // the service lets pages load what it serves, and nothing that is written into them
    rollupOptions: {
      onwarn(warning, warn) {
        if (warning.code !== 'MODULE_LEVEL_DIRECTIVE') warn(warning) // "use client" means nothing here
      },
    },
  },
})
