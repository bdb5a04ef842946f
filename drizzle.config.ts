import { defineConfig } from 'drizzle-kit';

export default defineConfig({
  dialect: 'postgresql',
  schema: './server/store/tables/*.ts',
  out: './drizzle',
});
