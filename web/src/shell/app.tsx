import { App as AntApp, ConfigProvider } from 'antd';
import enGB from 'antd/locale/en_GB';
import { useLayoutEffect, useState } from 'react';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router';
import type { ThemeConfig } from 'antd';
import { router } from './routes.tsx';
import { store, useAppSelector } from './store.ts';
import { antTheme } from './theme.ts';

export function App() {
  return (
    <Provider store={store}>
      <Themed />
    </Provider>
  );
}

function Themed() {
  const dark = useAppSelector((state) => state.layout.dark);
  const [theme, setTheme] = useState<ThemeConfig>();
  useLayoutEffect(() => {
    document.documentElement.dataset['theme'] = dark ? 'dark' : 'light';
    setTheme(antTheme(dark));
  }, [dark]);
  if (!theme) return null;
  return (
    <ConfigProvider theme={theme} locale={enGB} wave={{ disabled: true }}>
      <AntApp component={false}>
        <RouterProvider router={router} />
      </AntApp>
    </ConfigProvider>
  );
}
