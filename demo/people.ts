/** The same for everybody in the demo, and shown on its sign-in page. */
export const demoPassword = 'low-water-0640';

export const supervisor = {
  email: 'supervisor@skerry.example',
  name: 'Effie Linklater',
  role: 'supervisor',
} as const;

export const demoPeople = [
  { email: 'admin@skerry.example', name: 'Astrid Heddle', role: 'administrator' },
  { email: 'analyst@skerry.example', name: 'Magnus Drever', role: 'analyst' },
  supervisor,
  { email: 'reader@skerry.example', name: 'Torquil Brae', role: 'reader' },
] as const;
