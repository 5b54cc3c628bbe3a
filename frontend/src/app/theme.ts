import { definePreset } from '@primeuix/themes'
import Aura from '@primeuix/themes/aura'

const STEPS = [50, 100, 200, 300, 400, 500, 600, 700, 800, 900, 950] as const
/** The shades of a colour, as the token file has them. */
const shades = (colour: string): Record<string, string> =>
  Object.fromEntries(STEPS.map((step) => [step, `var(--${colour}-${step})`]))
const grey: Record<string, string> = { 0: 'var(--grey-0)', ...shades('grey') }
const teal = shades('teal')

const preset = definePreset(Aura, {
  primitive: { borderRadius: { none: '0', xs: '2px', sm: '3px', md: '4px', lg: '5px', xl: '6px' } },
  semantic: {
    primary: teal,
    colorScheme: {
      light: {
        surface: grey,
        primary: {
          color: teal[600],
          contrastColor: grey[0],
          hoverColor: teal[700],
          activeColor: teal[800],
        },
        text: { color: grey[900], mutedColor: grey[600] },
      },
      dark: {
        surface: grey,
        primary: {
          color: teal[300],
          contrastColor: grey[950],
          hoverColor: teal[200],
          activeColor: teal[100],
        },
        text: { color: 'var(--ink)', mutedColor: 'var(--ink-soft)' },
      },
    },
  },
})

/** What cannot be taken back. */
const DANGER = {
  background: 'var(--stop)',
  hoverBackground: 'var(--stop)',
  activeBackground: 'var(--stop)',
  borderColor: 'var(--stop)',
  hoverBorderColor: 'var(--stop)',
  activeBorderColor: 'var(--stop)',
  color: 'var(--panel)',
  hoverColor: 'var(--panel)',
  activeColor: 'var(--panel)',
}

/** What the preset leaves too pale to read: chosen darker, to at least 4.5 to 1. */
const readable = definePreset(preset, {
  components: {
    togglebutton: {
      colorScheme: {
        light: {
          root: {
            color: grey[700],
            background: grey[200],
            checkedBackground: grey[200],
            hoverBackground: grey[200],
            borderColor: grey[200],
            checkedBorderColor: grey[200],
          },
          icon: { color: grey[700] },
        },
        dark: { root: { color: grey[300] }, icon: { color: grey[300] } },
      },
    },
    button: {
      colorScheme: {
        light: {
          root: { danger: DANGER },
          outlined: { secondary: { color: grey[800], borderColor: grey[400] } },
          text: { secondary: { color: grey[800] }, danger: { color: 'var(--stop)' } },
        },
        dark: {
          root: { danger: DANGER },
          outlined: { secondary: { color: grey[200], borderColor: grey[500] } },
          text: { secondary: { color: grey[200] }, danger: { color: 'var(--stop)' } },
        },
      },
    },
    message: {
      colorScheme: { light: { warn: { color: 'var(--warn)' } }, dark: { warn: { color: 'var(--warn)' } } },
    },
  },
})

export const theme = { preset: readable, options: { darkModeSelector: '.dim' } }
