import { demoPeople } from './people.ts';

/* What the made-up ferry line owns and sails. */

export const zone = 'Europe/London';
export const seed = 4017;

export const terminals = [
  { id: 1, code: 'SKH', name: 'Skerryhaven', berths: 3 },
  { id: 2, code: 'NRK', name: 'Norrick', berths: 2 },
  { id: 3, code: 'HLM', name: 'Holm Pier', berths: 1 },
  { id: 4, code: 'FNB', name: 'Fenwold Bay', berths: 2 },
  { id: 5, code: 'LNP', name: 'Lantern Point', berths: 1 },
  { id: 6, code: 'AUS', name: 'Auldstaithe', berths: 2 },
] as const;

/** `rough`: how much more often than usual the route is late. Minutes and departures are one way. */
export const routes = [
  { id: 1, from: 1, to: 2, minutes: 55, departures: 16, vessels: [1, 2], rough: 1 },
  { id: 2, from: 1, to: 4, minutes: 80, departures: 14, vessels: [3], rough: 1.35 },
  { id: 3, from: 2, to: 3, minutes: 25, departures: 18, vessels: [4], rough: 0.6 },
  { id: 4, from: 4, to: 6, minutes: 40, departures: 14, vessels: [5], rough: 0.8 },
  { id: 5, from: 1, to: 5, minutes: 105, departures: 8, vessels: [6], rough: 1.9 },
  { id: 6, from: 6, to: 5, minutes: 35, departures: 12, vessels: [7], rough: 1.1 },
] as const;

const placeName = (id: number): string => terminals.find((terminal) => terminal.id === id)?.name ?? '';
export const routeName = (route: (typeof routes)[number]): string =>
  `${placeName(route.from)} – ${placeName(route.to)}`;

export const vessels = [
  { id: 1, name: 'Kittiwake', built: 2009, passengers: 420, vehicles: 68, hue: '#2F6B57', funnels: 1 },
  { id: 2, name: 'Storm Petrel', built: 2016, passengers: 380, vehicles: 60, hue: '#2B5C9E', funnels: 2 },
  { id: 3, name: 'Guillemot', built: 1998, passengers: 510, vehicles: 84, hue: '#8A5A14', funnels: 2 },
  { id: 4, name: 'Turnstone', built: 2019, passengers: 150, vehicles: 18, hue: '#9B3D56', funnels: 1 },
  { id: 5, name: 'Eider', built: 2004, passengers: 240, vehicles: 36, hue: '#3D4F5C', funnels: 1 },
  { id: 6, name: 'Fulmar', built: 1994, passengers: 460, vehicles: 72, hue: '#64518F', funnels: 2 },
  { id: 7, name: 'Razorbill', built: 2012, passengers: 190, vehicles: 28, hue: '#2C7F86', funnels: 1 },
] as const;

/** A vessel's side view as an SVG document. */
export function vesselPicture({ name, hue, funnels }: (typeof vessels)[number]): string {
  const funnel = (x: number): string =>
    `<path d="M${x} 24h13l2 15h-17z" fill="${hue}"/><path d="M${x} 24h13l1 5h-14z" fill="#16222B"/>`;
  const windows = Array.from(
    { length: 13 },
    (_, index) => `<rect x="${62 + index * 13}" y="52" width="7" height="5" fill="#CFE0E2"/>`,
  ).join('');
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 280 110" role="img" aria-label="${name}"><rect width="280" height="110" fill="#E4ECEB"/><path d="M0 84q14-5 28 0t28 0 28 0 28 0 28 0 28 0 28 0 28 0 28 0 28 0v26H0z" fill="#A9C4C4"/>${funnel(112)}${funnels === 2 ? funnel(168) : ''}<path d="M70 38h132l10 12H60z" fill="#F7FAF9"/><path d="M48 49h186l6 16H44z" fill="#FFFFFF"/>${windows}<path d="M26 65h232l-16 24q-4 4-12 4H56q-8 0-12-5z" fill="${hue}"/><path d="M26 65h232l-3 5H28z" fill="#F7FAF9" opacity=".85"/></svg>`;
}

export const causes = ['weather', 'tide', 'technical', 'crew', 'loading', 'traffic at berth'] as const;

const given = [
  'Isla',
  'Magnus',
  'Rona',
  'Torquil',
  'Effie',
  'Sorley',
  'Marsali',
  'Erlend',
  'Catriona',
  'Ruaridh',
  'Ingrid',
  'Fergus',
  'Astrid',
  'Lachlan',
  'Morag',
] as const;
const family = [
  'Farquhar',
  'Heddle',
  'Sinclaw',
  'Mouatt',
  'Brae',
  'Linklater',
  'Drever',
  'Foubister',
] as const;
const posts = ['master', 'mate', 'engineer', 'deckhand', 'purser'] as const;

/** Sixty people. Their staff numbers are numbers kept as text. */
/** The number of the first of them. */
const firstOfDemoPeople = 5;

/** Those who sign in to the demo are of the crew, so that some of what there is to do is theirs. */
const signingIn = new Map(demoPeople.map((person, index) => [firstOfDemoPeople + index, person]));

/** The numbers of those who sign in. */
export const crewSigningIn = [...signingIn.keys()];

export const crew = Array.from({ length: 60 }, (_, index) => ({
  id: index + 1,
  staffNo: String(index < 9 ? index + 1 : (index + 1) * 7 - 3),
  name:
    signingIn.get(index + 1)?.name ??
    `${given[index % given.length] ?? ''} ${family[(index * 5 + Math.floor(index / given.length)) % family.length] ?? ''}`,
  post: posts[index % posts.length] ?? 'deckhand',
  email: signingIn.get(index + 1)?.email ?? `staff${index + 1}@skerry.example`,
}));
