import { index, type RouteConfig, route } from '@react-router/dev/routes';

export default [
  index('routes/home.tsx'),
  route('sign-in', 'routes/sign-in.tsx'),
  route('sign-out', 'routes/sign-out.ts'),
  route('theme', 'routes/theme.ts'),
  route('desk/:desk/:dashboard?', 'routes/desk.tsx'),
  route('view/:id/panes', 'routes/view-panes.ts'),
  route('view/:id/behind', 'routes/view-behind.ts'),
  route('view/:id/record', 'routes/view-record.ts'),
  route('view/:id/values', 'routes/view-values.ts'),
] satisfies RouteConfig;
