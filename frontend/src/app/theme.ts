import { definePreset } from '@primeuix/themes'
import Aura from '@primeuix/themes/aura'

const grey = {
  0: '#ffffff',
  50: '#f6f6f4',
  100: '#ececea',
  200: '#dcdcd9',
  300: '#c3c3bf',
  400: '#9b9b97',
  500: '#737370',
  600: '#585856',
  700: '#424240',
  800: '#2d2d2c',
  900: '#212120',
  950: '#161616',
}
const teal = {
  50: '#eaf6f7',
  100: '#cdeaec',
  200: '#9dd5d9',
  300: '#68bcc2',
  400: '#3aa0a8',
  500: '#17838c',
  600: '#0d6b74',
  700: '#0b565d',
  800: '#0b464c',
  900: '#0c393e',
  950: '#052327',
}

const preset = definePreset(Aura, {
  primitive: { borderRadius: { none: '0', xs: '2px', sm: '3px', md: '4px', lg: '5px', xl: '6px' } },
  semantic: {
    primary: teal,
    colorScheme: {
      light: {
        surface: grey,
        primary: {
          color: teal[600],
          contrastColor: '#ffffff',
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
        text: { color: '#e9e9e6', mutedColor: '#b3b3ae' },
      },
    },
  },
})

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
          outlined: { secondary: { color: grey[800], borderColor: grey[400] } },
          text: { secondary: { color: grey[800] } },
        },
        dark: {
          outlined: { secondary: { color: grey[200], borderColor: grey[500] } },
          text: { secondary: { color: grey[200] } },
        },
      },
    },
    message: { colorScheme: { light: { warn: { color: '#7a4b00' } }, dark: { warn: { color: '#f0c070' } } } },
  },
})

export const theme = { preset: readable, options: { darkModeSelector: '.dim' } }
