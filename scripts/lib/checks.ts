/** What is checked without running anything: name, command of a package, its arguments. */
export const checks: readonly [name: string, args: string[]][] = [
  ['Types of pages', ['astro', 'sync', '--silent']],
  ['Format', ['prettier', '--check', '--log-level=warn', '.']],
  ['Lint', ['eslint', '.', '--max-warnings=0']],
  ['Types', ['tsc', '--noEmit']],
  ['Pages', ['astro', 'check', '--silent', '--minimumFailingSeverity=warning']],
  ['Doors', ['depcruise', 'src', 'market', 'demo', 'scripts', 'lab', '--config', '.dependency-cruiser.cjs']],
  ['Folders', ['depcruise', 'src', '--config', '.dependency-cruiser-folders.cjs']],
  ['What nobody uses', ['knip', '--no-progress']],
];
