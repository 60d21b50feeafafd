import { type ThemeConfig, theme } from 'antd'

/** Every colour of the application, once. Contrast on its ground: text at least 4.5:1, marks 3:1 (checked by a test). */
export interface Palette {
  readonly paper: string
  readonly panel: string
  /** Fields, buttons and whatever lies over a panel. */
  readonly raised: string
  readonly hairline: string
  readonly ink: string
  readonly quietInk: string
  readonly copper: string
  readonly onCopper: string
  readonly verdigris: string
  readonly ochre: string
  readonly brick: string
  /** The line and marks on it. */
  readonly wire: string
}

export const lightPalette: Palette = {
  paper: '#F6F5F2',
  panel: '#FFFFFF',
  raised: '#FFFFFF',
  hairline: '#DFDCD5',
  ink: '#1D2321',
  quietInk: '#59615D',
  copper: '#A4542A',
  onCopper: '#FFFFFF',
  verdigris: '#2C776A',
  ochre: '#8F6400',
  brick: '#AE3327',
  wire: '#B5673D',
}

export const darkPalette: Palette = {
  paper: '#191B1A',
  panel: '#212423',
  raised: '#2B2E2D',
  hairline: '#383D3B',
  ink: '#ECEAE5',
  quietInk: '#A7ADA9',
  copper: '#D98A5B',
  onCopper: '#1B1512',
  verdigris: '#6DBBAC',
  ochre: '#DDAE4B',
  brick: '#EE8377',
  wire: '#D98A5B',
}

/** Neutral greys around a picture, light to dark; never tinted. */
export const stageGreys = ['#D8D8D8', '#A6A6A6', '#777777', '#4A4A4A', '#262626'] as const
export const defaultStageGrey = 2

export const fonts = {
  words: "'Instrument Sans Variable', system-ui, sans-serif",
  figures: "'JetBrains Mono Variable', ui-monospace, monospace",
}

export function themeConfig(palette: Palette, dark: boolean): ThemeConfig {
  return {
    algorithm: dark ? theme.darkAlgorithm : theme.defaultAlgorithm,
    token: {
      colorPrimary: palette.copper,
      colorSuccess: palette.verdigris,
      colorWarning: palette.ochre,
      colorError: palette.brick,
      colorInfo: palette.verdigris,
      colorLink: palette.copper,
      colorBgBase: palette.panel,
      colorBgLayout: palette.paper,
      colorBgContainer: palette.raised,
      colorBgElevated: palette.raised,
      colorBgSpotlight: dark ? '#3A3E3C' : palette.ink,
      // Fills are made of the ink itself, so that chrome stays as neutral as the ink is.
      colorFill: `${palette.ink}2E`,
      colorFillSecondary: `${palette.ink}1F`,
      colorFillTertiary: `${palette.ink}12`,
      colorFillQuaternary: `${palette.ink}0A`,
      colorFillAlter: `${palette.ink}0A`,
      colorTextBase: palette.ink,
      colorText: palette.ink,
      colorTextSecondary: palette.quietInk,
      colorTextTertiary: palette.quietInk,
      colorTextDescription: palette.quietInk,
      colorTextPlaceholder: palette.quietInk,
      colorBorder: palette.hairline,
      colorBorderSecondary: palette.hairline,
      colorTextLightSolid: palette.onCopper,
      borderRadius: 6,
      fontFamily: fonts.words,
      fontFamilyCode: fonts.figures,
      fontSize: 13,
      fontSizeSM: 12,
      controlHeight: 30,
      controlHeightSM: 26,
      controlPaddingHorizontal: 10,
      motionDurationFast: '0.12s',
      motionDurationMid: '0.15s',
      motionDurationSlow: '0.18s',
      boxShadow: 'none',
      // What lies over the page has an edge of its own and hardly a shadow.
      boxShadowSecondary: `0 0 0 1px ${palette.hairline}, 0 10px 28px -12px #00000059`,
      boxShadowTertiary: 'none',
    },
    components: {
      // Under the pointer, too, words are told from their ground (WCAG 1.4.3): the lighter copper of hovering is not enough.
      Button: {
        primaryShadow: 'none',
        defaultShadow: 'none',
        dangerShadow: 'none',
        defaultHoverColor: palette.copper,
        defaultHoverBorderColor: palette.copper,
      },
      Slider: {
        railSize: 3,
        handleSize: 10,
        handleSizeHover: 12,
        railBg: palette.hairline,
        railHoverBg: palette.hairline,
        trackBg: palette.wire,
        trackHoverBg: palette.copper,
        handleColor: palette.wire,
        handleActiveColor: palette.copper,
        dotActiveBorderColor: palette.copper,
      },
      Segmented: { itemSelectedBg: palette.raised, trackBg: `${palette.ink}12` },
      Tooltip: { colorTextLightSolid: '#ECEAE5' },
      // Lists: the row under the pointer is shaded, the chosen one is tinted copper.
      Select: {
        optionPadding: '6px 12px',
        optionSelectedBg: `${palette.copper}1F`,
        optionSelectedColor: palette.copper,
        optionSelectedFontWeight: 600,
        optionActiveBg: `${palette.ink}12`,
      },
      Dropdown: { paddingBlock: 6, controlItemBgHover: `${palette.ink}12`, controlItemBgActive: `${palette.copper}1F` },
      Menu: { itemSelectedBg: `${palette.copper}1F`, itemSelectedColor: palette.copper },
      DatePicker: { cellHoverBg: `${palette.ink}12` },
      Modal: { titleFontSize: 16, headerBg: palette.raised, contentBg: palette.raised },
      Message: { contentBg: palette.raised, contentPadding: '10px 16px 10px 18px' },
      Popover: { titleMinWidth: 0 },
    },
  }
}

/** The palette as CSS variables, for what is drawn by hand: the line, beads, plots. */
export const paletteVariables = (palette: Palette): Record<string, string> =>
  Object.fromEntries(
    Object.entries(palette).map(([name, value]) => [`--${name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)}`, value]),
  )
