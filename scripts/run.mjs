// Entry of every npm script: installs the npm packages when they are missing, then runs scripts/<name>.ts.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const [name, ...rest] = process.argv.slice(2);

const lock = createHash('sha256')
  .update(readFileSync(`${root}/package-lock.json`))
  .digest('hex');
const stamp = `${root}/node_modules/.mowing-installed`;
if (!existsSync(stamp) || readFileSync(stamp, 'utf8') !== lock) {
  console.error('Installing npm packages');
  const install = spawnSync('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], {
    cwd: root,
    stdio: ['ignore', 2, 2],
  });
  if (install.status !== 0) process.exit(install.status ?? 1);
  writeFileSync(stamp, lock);
}

const child = spawn(process.execPath, ['--import', 'tsx', `${root}/scripts/${name}.ts`, ...rest], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, ASTRO_TELEMETRY_DISABLED: '1' },
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal));
child.on('exit', (code, signal) => process.exit(signal ? 1 : (code ?? 1)));
