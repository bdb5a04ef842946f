import { index, layout, type RouteConfig, route } from '@react-router/dev/routes';

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
  route('view/:id/live', 'routes/view-live.ts'),
  layout('routes/workshop.tsx', [
    route('workshop', 'routes/workshop-home.tsx'),
    route('workshop/sources/new', 'routes/source-new.tsx'),
    route('workshop/sources/:id', 'routes/source.tsx'),
    route('workshop/data-sets/new', 'routes/data-set-new.tsx'),
    route('workshop/data-sets/:id', 'routes/data-set.tsx'),
    route('workshop/data-sets/:id/records', 'routes/data-set-records.tsx'),
    route('workshop/dashboards/new', 'routes/dashboard-new.tsx'),
    route('workshop/dashboards/:id', 'routes/draft.tsx'),
    route('workshop/dashboards/:id/brief/:pane', 'routes/brief.tsx'),
  ]),
  route('workshop/preview', 'routes/preview.ts'),
  route('workshop/try', 'routes/try.ts'),
  route('workshop/dashboards/:id/save', 'routes/draft-save.ts'),
] satisfies RouteConfig;
