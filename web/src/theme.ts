import { definePreset } from '@primeuix/themes'
import Aura from '@primeuix/themes/aura'

/** PrimeVue in our own tokens; the same colours stand as CSS variables in styles.css. */
export const theme = definePreset(Aura, {
  primitive: { borderRadius: { none: '0', xs: '2px', sm: '3px', md: '4px', lg: '4px', xl: '4px' } },
  components: {
    tabs: {
      colorScheme: {
        light: {
          tablist: { background: 'transparent' },
          tab: { color: 'var(--muted)' },
          tabpanel: { background: 'transparent', color: 'var(--ink)' },
        },
        dark: {
          tablist: { background: 'transparent' },
          tab: { color: 'var(--muted)' },
          tabpanel: { background: 'transparent', color: 'var(--ink)' },
        },
      },
    },
  },
  semantic: {
    primary: {
      50: '#f9f0f5',
      100: '#f4e9f0',
      200: '#e6c9da',
      300: '#d3a1bd',
      400: '#b86b97',
      500: '#8f3f70',
      600: '#7a2e5d',
      700: '#66254e',
      800: '#511d3e',
      900: '#3c152e',
      950: '#260c1d',
    },
    focusRing: { width: '2px', style: 'solid', color: 'var(--accent)', offset: '1px' },
    formField: { paddingX: '0.6rem', paddingY: '0.4rem' },
    colorScheme: {
      light: {
        primary: {
          color: '#7a2e5d',
          contrastColor: '#ffffff',
          hoverColor: '#66254e',
          activeColor: '#511d3e',
        },
        highlight: {
          background: '#f4e9f0',
          focusBackground: '#ecdae5',
          color: '#511d3e',
          focusColor: '#511d3e',
        },
        surface: {
          0: '#ffffff',
          50: '#fbfaf6',
          100: '#f4f2ea',
          200: '#dedad0',
          300: '#c9c4b6',
          400: '#8b8a86',
          500: '#63646a',
          600: '#4a4d57',
          700: '#343845',
          800: '#262b38',
          900: '#1c2230',
          950: '#121722',
        },
        text: { color: '#1c2230', mutedColor: '#5c5f69' },
        formField: { borderColor: '#b5b0a2', hoverBorderColor: '#7a2e5d', placeholderColor: '#6c6e76' },
      },
      dark: {
        primary: {
          color: '#d59abd',
          contrastColor: '#260c1d',
          hoverColor: '#e0b3cd',
          activeColor: '#e6c9da',
        },
        surface: {
          0: '#ffffff',
          50: '#ece9e1',
          100: '#d9d6cd',
          200: '#b9b7b0',
          300: '#9a9a98',
          400: '#7c7e83',
          500: '#5e626c',
          600: '#474c59',
          700: '#343a48',
          800: '#262b38',
          900: '#1c2230',
          950: '#151a26',
        },
      },
    },
  },
})
