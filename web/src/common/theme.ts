import type { GlobalThemeOverrides } from 'naive-ui'

/** Thread colours name kinds, everywhere the same. */
export const thread: Record<string, string> = {
  media: '#B9821F',
  words: '#7B3F66',
  colour: '#1E7383',
  amount: '#66772B',
  choice: '#B4492B',
  duration: '#4C5F73',
}

const ivy = '#2E6B4E'
const ivyDeep = '#23543D'

export const theme: GlobalThemeOverrides = {
  common: {
    fontFamily: "'Figtree', sans-serif",
    fontFamilyMono: "'Spline Sans Mono', monospace",
    primaryColor: ivy,
    primaryColorHover: '#37805D',
    primaryColorPressed: ivyDeep,
    primaryColorSuppl: ivy,
    errorColor: '#B4492B',
    errorColorHover: '#C45535',
    errorColorPressed: '#963B22',
    warningColor: '#8A5A0F',
    infoColor: '#1E7383',
    successColor: ivy,
    textColorBase: '#22302A',
    textColor1: '#22302A',
    textColor2: '#22302A',
    textColor3: '#5B675F',
    placeholderColor: '#66726B',
    borderColor: '#DDD7C8',
    dividerColor: '#DDD7C8',
    bodyColor: '#F5F2EA',
    cardColor: '#FBFAF5',
    modalColor: '#FBFAF5',
    popoverColor: '#FBFAF5',
    inputColor: '#FFFEFA',
    borderRadius: '7px',
    borderRadiusSmall: '5px',
    fontSize: '13px',
    fontSizeSmall: '12.5px',
    fontWeightStrong: '600',
  },
  Button: { fontWeight: '500', heightSmall: '28px', heightMedium: '32px', borderRadiusMedium: '8px' },
  Checkbox: { textColorDisabled: '#5B675F' },
  Tabs: { tabFontSizeSmall: '13px' },
  Tooltip: { color: '#22302A', textColor: '#F5F2EA', borderRadius: '6px' },
  Slider: { railColor: '#DDD7C8', railColorHover: '#CFC7B4', handleSize: '14px' },
}
