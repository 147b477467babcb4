import { createTheme, type CSSVariablesResolver, type MantineColorsTuple } from '@mantine/core'

// a deep petrol, the only colour of the interface besides the red of loss
const petrol: MantineColorsTuple = ['#e9f5f8', '#d3e8ee', '#a5d1de', '#72b8cd', '#4ca3bd', '#3595b3', '#1f7f9c', '#0f6b86', '#0a5d76', '#004c62']
// greys without a tint: nothing near the picture may lean to a colour
const neutral: MantineColorsTuple = ['#d8d8d8', '#b9b9b9', '#9b9b9b', '#6f6f6f', '#4c4c4c', '#3a3a3a', '#2d2d2d', '#242424', '#1d1d1d', '#161616']
const gray: MantineColorsTuple = ['#f7f7f7', '#efefef', '#e4e4e4', '#d6d6d6', '#bfbfbf', '#9a9a9a', '#767676', '#565656', '#3a3a3a', '#1f1f1f']

export const theme = createTheme({
  // who has asked the system for less motion gets none here either
  respectReducedMotion: true,
  fontFamily: "'Figtree Variable', system-ui, sans-serif",
  headings: { fontFamily: "'Figtree Variable', system-ui, sans-serif", fontWeight: '600' },
  colors: { petrol, dark: neutral, gray },
  primaryColor: 'petrol',
  primaryShade: { light: 7, dark: 6 },
  defaultRadius: 3,
  fontSizes: { xs: '11.5px', sm: '13px', md: '14px', lg: '16px', xl: '19px' },
  cursorType: 'pointer',
  components: {
    Modal: { defaultProps: { closeButtonProps: { 'aria-label': 'Close' } } },
    Button: { defaultProps: { size: 'xs' } },
    ActionIcon: { defaultProps: { size: 28, variant: 'subtle', color: 'gray' } },
    Tooltip: { defaultProps: { openDelay: 400, withArrow: false } },
    TextInput: { defaultProps: { size: 'xs' } },
    PasswordInput: { defaultProps: { size: 'xs' } },
    NumberInput: { defaultProps: { size: 'xs' } },
    Select: { defaultProps: { size: 'xs', allowDeselect: false, checkIconPosition: 'right' } },
    Slider: { defaultProps: { size: 3, thumbSize: 13, label: null } },
  },
})

export const variables: CSSVariablesResolver = () => ({
  variables: { '--loss': '#b3261e' },
  light: {
    '--ground': '#f2f2f2',
    '--board': '#e6e6e6',
    '--paper': '#ffffff',
    '--line': '#d0d0d0',
    '--ink': '#1f1f1f',
    '--faint': '#5c5c5c',
    '--mantine-color-dimmed': '#5c5c5c',
    '--mantine-color-body': '#f7f7f7',
  },
  dark: {
    '--ground': '#242424',
    '--board': '#2d2d2d',
    '--paper': '#3a3a3a',
    '--line': '#434343',
    '--ink': '#ececec',
    '--faint': '#adadad',
    '--mantine-color-dimmed': '#adadad',
    '--mantine-color-body': '#1d1d1d',
    '--loss': '#ff8a80',
  },
})
