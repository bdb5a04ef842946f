/** The links to the dashboards of the desk, as the menu on top has them. */
export const dashboardLinks = (): HTMLAnchorElement[] => [
  ...document.querySelectorAll<HTMLAnchorElement>('nav[aria-label="Dashboards"] a'),
];
