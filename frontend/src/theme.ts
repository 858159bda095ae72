/**
 * PrimeVue's components in our paper, ink and accent. Only the components that are used: reading the
 * whole preset, some ninety of them, held up every page by a tenth of a second.
 */
import { definePreset } from '@primeuix/themes'
import base from '@primeuix/themes/aura/base'
import button from '@primeuix/themes/aura/button'
import dialog from '@primeuix/themes/aura/dialog'
import inputtext from '@primeuix/themes/aura/inputtext'
import progressbar from '@primeuix/themes/aura/progressbar'
import slider from '@primeuix/themes/aura/slider'

const accent = {
  50: '#fbf3ee',
  100: '#f0dbcf',
  200: '#e6c0ad',
  300: '#d79c82',
  400: '#c26d4c',
  500: '#9c3d22',
  600: '#8a351d',
  700: '#722b17',
  800: '#5a2212',
  900: '#43190d',
  950: '#2c1008',
}

const paper = {
  0: '#fffdf8',
  50: '#faf7f0',
  100: '#f6f2e9',
  200: '#ece5d6',
  300: '#d9d0bd',
  400: '#a99f8b',
  500: '#8d8575',
  600: '#5d574c',
  700: '#45413a',
  800: '#302d28',
  900: '#23211d',
  950: '#171512',
}

const used = { ...base, components: { button, dialog, inputtext, progressbar, slider } }

export const OrchesisPreset = definePreset(used, {
  semantic: {
    primary: accent,
    focusRing: { width: '3px', style: 'solid', color: '{primary.500}', offset: '2px' },
    colorScheme: {
      light: {
        surface: paper,
        primary: {
          color: '{primary.500}',
          contrastColor: '#fffaf5',
          hoverColor: '{primary.600}',
          activeColor: '{primary.700}',
        },
        text: { color: '{surface.900}', mutedColor: '{surface.600}' },
      },
      dark: { surface: paper },
    },
  },
  components: {
    button: {
      root: { borderRadius: '999px', paddingX: '1.1rem', paddingY: '0.45rem' },
      // The quiet buttons must be read by daylight too.
      colorScheme: {
        light: {
          text: { secondary: { color: '{surface.600}' } },
          outlined: { secondary: { color: '{surface.600}', borderColor: '{surface.400}' } },
        },
      },
    },
  },
})
