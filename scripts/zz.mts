import { playRequests } from '../tests/campaigns/requests.ts';
const f = await playRequests(
  'http://127.0.0.1:4300',
  Number(process.argv[2] ?? 800),
  Number(process.argv[3] ?? 1),
);
const uniq = (l: string[]) => [...new Map(l.map((x) => [x.replace(/\d+/g, '#').slice(0, 60), x])).values()];
console.log({
  calls: f.calls,
  slowest: Math.round(f.slowest),
  errors: f.serverErrors.length,
  unclear: f.unclear.length,
  hangs: f.hangs.length,
});
console.log(uniq(f.serverErrors).slice(0, 20).join('\n'));
console.log('--');
console.log(uniq(f.unclear).slice(0, 15).join('\n'));
console.log('--');
console.log(uniq(f.hangs).slice(0, 10).join('\n'));
