/** No circles between the folders of a room: each knows only what stands below it. Tests look where they like. */
const { options } = require('./.dependency-cruiser.cjs');

module.exports = {
  forbidden: [
    {
      name: 'no-circles-of-folders',
      severity: 'error',
      scope: 'folder',
      from: { path: '^src/(core|server|ui)' },
      to: { circular: true },
    },
  ],
  options: { ...options, exclude: { path: '\\.(test|fixture)\\.tsx?$' } },
};
