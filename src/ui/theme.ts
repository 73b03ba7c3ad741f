import '@fontsource-variable/public-sans';
import { createTheme } from '@mui/material/styles';

/** Colours by role, light and dark. Pairs of text and ground keep 4.5:1. */
export const roles = {
  light: {
    ground: '#F6F4EE',
    surface: '#FFFFFF',
    panel: '#FBFAF6',
    ink: '#17211B',
    soft: '#5B655E',
    line: '#DEDBD1',
    accent: '#1E5B4A',
    wash: '#EFF5F2',
    under: '#2B6F8F',
    over: '#B4532A',
    graphite: '#6A6F6B',
    bar: '#BFC3BB',
    night: '#17211B',
    onNight: '#F2F0E8',
  },
  dark: {
    ground: '#141A17',
    surface: '#1B231F',
    panel: '#18201C',
    ink: '#E9ECE6',
    soft: '#A3ADA6',
    line: '#323C36',
    accent: '#7CC3A9',
    wash: '#233A31',
    under: '#7DB9D6',
    over: '#E58F66',
    graphite: '#A9AEAA',
    bar: '#4A554E',
    night: '#0C110E',
    onNight: '#E9ECE6',
  },
} as const;

export type Roles = { [K in keyof (typeof roles)['light']]: string };

declare module '@mui/material/styles' {
  interface Palette {
    roles: Roles;
  }
  interface PaletteOptions {
    roles?: Roles;
  }
}

/** Sizes of text in px: all that there are. */
export const sizes = { tiny: 11, small: 12, table: 13, sentence: 14, text: 15, title: 22 } as const;

/** Mowing's one theme. Sizes: 13 px tables, 15 px text, few others. */
export const makeTheme = (mode: 'light' | 'dark', still: boolean) => {
  const role = roles[mode];
  return createTheme({
    palette: {
      mode,
      roles: role,
      primary: { main: role.accent },
      error: { main: role.over },
      info: { main: role.under },
      background: { default: role.ground, paper: role.surface },
      text: { primary: role.ink, secondary: role.soft },
      divider: role.line,
    },
    shape: { borderRadius: 4 },
    spacing: 8,
    typography: {
      fontFamily: '"Public Sans Variable", sans-serif',
      fontSize: 15,
      htmlFontSize: 15,
      body1: { fontSize: sizes.text, lineHeight: 1.5 },
      body2: { fontSize: sizes.table, lineHeight: 1.4 },
      h1: { fontSize: sizes.title, fontWeight: 700, lineHeight: 1.2 },
      h2: { fontSize: sizes.text, fontWeight: 700, lineHeight: 1.3 },
      caption: { fontSize: sizes.small, lineHeight: 1.3 },
      button: { textTransform: 'none', fontWeight: 600, fontSize: 13 },
    },
    transitions: still
      ? { create: () => 'none' }
      : {
          duration: {
            shortest: 100,
            shorter: 120,
            short: 150,
            standard: 150,
            complex: 150,
            enteringScreen: 150,
            leavingScreen: 150,
          },
        },
    components: {
      MuiCssBaseline: {
        styleOverrides: {
          'html, body, #app': { height: '100%' },
          // Inherited box sizing, the usual way, makes browsers reckon all children anew when a row moves.
          '*, *::before, *::after': { boxSizing: 'border-box' },
          body: { fontVariantNumeric: 'tabular-nums', overflow: 'hidden' },
          // Messages stand above the sheet bar, which must stay readable.
          '.messages.messages': { bottom: 54, left: 84 },
          '*:focus-visible': { outline: `2px solid ${role.accent}`, outlineOffset: 1 },
        },
      },
      MuiButton: {
        defaultProps: { disableElevation: true, disableRipple: still },
        styleOverrides: { root: { padding: '5px 14px' }, sizeSmall: { padding: '2px 8px', fontSize: 13 } },
      },
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiTooltip: { defaultProps: { enterDelay: 500 } },
      // What lies above is told by its frame and shadow, in the palette's own colours.
      MuiPaper: {
        defaultProps: { elevation: 0 },
        styleOverrides: { root: { backgroundImage: 'none' } },
      },
      MuiTextField: { defaultProps: { size: 'small' } },
    },
  });
};
