import { App as AntApp, ConfigProvider } from 'antd';
import enGB from 'antd/locale/en_GB';
import { useMemo } from 'react';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router';
import { router } from './routes.tsx';
import { store, useAppSelector } from '../shell/store.ts';
import { applyTheme } from '../shell/theme.ts';

export function App() {
  return (
    <Provider store={store}>
      <Themed />
    </Provider>
  );
}

function Themed() {
  const dark = useAppSelector((state) => state.layout.dark);
  const theme = useMemo(() => applyTheme(dark), [dark]);
  return (
    <ConfigProvider theme={theme} locale={enGB} wave={{ disabled: true }}>
      <AntApp component={false}>
        <RouterProvider router={router} />
      </AntApp>
    </ConfigProvider>
  );
}
