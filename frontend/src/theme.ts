/**
 * PrimeVue's components in our paper, ink and accent: every colour is one of styles/tokens.css or mixed
 * from them. Only the components that are used: reading the whole preset, some ninety of them, held up
 * every page by a tenth of a second.
 */
import { definePreset } from '@primeuix/themes'
import accordion from '@primeuix/themes/aura/accordion'
import base from '@primeuix/themes/aura/base'
import button from '@primeuix/themes/aura/button'
import checkbox from '@primeuix/themes/aura/checkbox'
import confirmdialog from '@primeuix/themes/aura/confirmdialog'
import dialog from '@primeuix/themes/aura/dialog'
import inputnumber from '@primeuix/themes/aura/inputnumber'
import inputtext from '@primeuix/themes/aura/inputtext'
import message from '@primeuix/themes/aura/message'
import metergroup from '@primeuix/themes/aura/metergroup'
import progressbar from '@primeuix/themes/aura/progressbar'
import select from '@primeuix/themes/aura/select'
import selectbutton from '@primeuix/themes/aura/selectbutton'
import slider from '@primeuix/themes/aura/slider'
import tabs from '@primeuix/themes/aura/tabs'
import textarea from '@primeuix/themes/aura/textarea'
import toast from '@primeuix/themes/aura/toast'
import togglebutton from '@primeuix/themes/aura/togglebutton'
import tooltip from '@primeuix/themes/aura/tooltip'
import { markRaw } from 'vue'

const mixed = (token: string, share: number, other: string) => `color-mix(in oklab, var(--${token}) ${share}%, ${other})`

/** Steps towards white and black, as the components name them; 500 is the accent itself. */
const accent = {
  50: mixed('accent-soft', 40, 'var(--paper-raised)'),
  100: 'var(--accent-soft)',
  200: mixed('accent', 30, 'var(--accent-soft)'),
  300: mixed('accent', 55, 'var(--accent-soft)'),
  400: mixed('accent', 80, 'var(--accent-soft)'),
  500: 'var(--accent)',
  600: mixed('accent', 86, 'var(--ink)'),
  700: mixed('accent', 70, 'var(--ink)'),
  800: mixed('accent', 50, 'var(--ink)'),
  900: mixed('accent', 30, 'var(--ink)'),
  950: mixed('accent', 15, 'var(--ink)'),
}

const paper = {
  0: 'var(--paper-raised)',
  50: mixed('paper', 50, 'var(--paper-raised)'),
  100: 'var(--paper)',
  200: 'var(--paper-sunk)',
  300: 'var(--line)',
  400: 'var(--line-strong)',
  500: 'var(--ink-faint)',
  600: 'var(--ink-soft)',
  700: mixed('ink', 60, 'var(--ink-soft)'),
  800: mixed('ink', 85, 'var(--ink-soft)'),
  900: 'var(--ink)',
  950: 'var(--ink)',
}

const used = {
  ...base,
  components: {
    accordion,
    button,
    checkbox,
    confirmdialog,
    dialog,
    inputnumber,
    inputtext,
    message,
    metergroup,
    progressbar,
    select,
    selectbutton,
    slider,
    tabs,
    textarea,
    toast,
    togglebutton,
    tooltip,
  },
}

/** What went wrong is said in the accent, on its soft ground. */
const alarm = { background: 'var(--accent-soft)', borderColor: 'var(--accent)', color: 'var(--accent)', shadow: 'none' }

// Raw: nothing in it changes, and the library would watch each of its thousands of values.
export const OrchesisPreset = markRaw(definePreset(used, {
  semantic: {
    primary: accent,
    focusRing: { width: '3px', style: 'solid', color: '{primary.500}', offset: '2px' },
    colorScheme: {
      light: {
        surface: paper,
        primary: {
          color: '{primary.500}',
          contrastColor: 'var(--accent-ink)',
          hoverColor: '{primary.600}',
          activeColor: '{primary.700}',
        },
        text: { color: '{surface.900}', mutedColor: '{surface.600}' },
        formField: { borderColor: '{surface.400}', placeholderColor: '{surface.600}' },
      },
      dark: { surface: paper },
    },
  },
  components: {
    accordion: {
      panel: { borderWidth: '0' },
      header: {
        padding: '0.25rem 0',
        color: 'var(--ink-soft)',
        activeColor: 'var(--ink)',
        hoverColor: 'var(--ink)',
        background: 'none',
        hoverBackground: 'none',
        activeBackground: 'none',
        activeHoverBackground: 'none',
        fontWeight: '400',
      },
      content: { padding: '0.25rem 0', background: 'none' },
    },
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
    message: { colorScheme: { light: { error: alarm } } },
    metergroup: { meters: { size: '8px', background: 'var(--paper-sunk)' }, root: { gap: '0', borderRadius: '2px' } },
    select: { root: { background: 'var(--paper-raised)' }, option: { padding: '0.3rem 0.75rem' } },
    tabs: {
      tablist: { background: 'none', borderColor: 'var(--line)' },
      tab: { padding: '0.1rem 0.75rem 0.35rem 0', activeColor: 'var(--ink)', activeBorderColor: 'var(--accent)', fontWeight: '400' },
      tabpanel: { background: 'none', padding: '0.5rem 0 0' },
      activeBar: { background: 'var(--accent)', height: '3px' },
    },
    togglebutton: {
      colorScheme: {
        light: {
          root: { color: 'var(--ink-soft)', hoverColor: 'var(--ink)', checkedColor: 'var(--ink)' },
          content: { checkedBackground: 'var(--paper-raised)' },
        },
      },
    },
    tooltip: { root: { background: 'var(--ink)', color: 'var(--paper-raised)', maxWidth: '18rem', padding: '0.35rem 0.6rem' } },
  },
}))
