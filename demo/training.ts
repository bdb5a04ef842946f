import { shiftDay } from '#core/value/period/period.ts';
import { crew, seed } from './line.ts';
import { seeded } from './random.ts';

const courses: readonly { readonly name: string; readonly years: number }[] = [
  { name: 'Sea survival', years: 5 },
  { name: 'First aid at sea', years: 3 },
  { name: 'Crowd management', years: 5 },
  { name: 'Fire fighting', years: 5 },
  { name: 'Ramp operations', years: 2 },
];

/**
 * The sheet that the training department sends round: who passed which course and when, with the date left open by hand in
 * some rows, and some rows twice.
 */
export function trainingSheet(today: string): string {
  const random = seeded(seed + 19);
  const rows = crew.flatMap(({ staffNo, name }) =>
    courses
      .filter(() => random.chance(0.8))
      .map((course) => {
        const passed = shiftDay(today, 'day', -random.between(20, course.years * 400));
        const hours = random.chance(0.04) ? 'half a day' : String(random.between(2, 16) / 2);
        return [
          staffNo,
          name,
          course.name,
          random.chance(0.05) ? 'to be agreed' : passed,
          String(course.years),
          hours,
        ];
      }),
  );
  const twice = rows.filter((_, index) => index % 29 === 0);
  return [
    'Staff no,Name,Course,Passed on,Valid for years,Hours',
    ...[...rows, ...twice].map((row) => row.join(',')),
  ].join('\n');
}
