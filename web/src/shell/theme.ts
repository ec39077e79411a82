/** Ant Design's tokens from ours: `tokens.css` is the one place where colours are set. */
import { theme, type ThemeConfig } from 'antd';

function read(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
}

/** Switches the page to a theme and gives what Ant Design needs for it. */
export function applyTheme(dark: boolean): ThemeConfig {
  document.documentElement.dataset['theme'] = dark ? 'dark' : 'light';
  return {
    algorithm: dark ? theme.darkAlgorithm : theme.defaultAlgorithm,
    token: {
      colorPrimary: read('--action'),
      colorInfo: read('--calm'),
      colorWarning: read('--attention'),
      colorError: read('--trouble'),
      colorSuccess: read('--action'),
      colorText: read('--ink'),
      colorTextSecondary: read('--quiet'),
      colorTextPlaceholder: read('--quiet'),
      colorBorder: read('--rule'),
      colorBgBase: read('--sheet'),
      colorBgLayout: read('--paper'),
      fontFamily: read('--text-font'),
      fontFamilyCode: read('--mono-font'),
      fontSize: 14,
      borderRadius: 3,
      controlHeight: 32,
      boxShadow: read('--shadow'),
      boxShadowSecondary: read('--shadow'),
      // The mark of a button that waits could stay when its answer came while it was still fading in,
      // and the button had another name from then on.
      motion: false,
    },
    components: {
      Button: {
        primaryShadow: 'none',
        defaultShadow: 'none',
        fontWeight: 600,
        defaultColor: read('--action'),
        defaultBorderColor: read('--action'),
      },
    },
  };
}
