/** What hosts would make of an installation as it is written now; asked again a moment after the last change. */
import { useEffect } from 'react';
import type { InstallForecast, InstallationInput } from '@vatline/contract/installation';
import { installedApi } from '../api/installed.ts';
import { problemOf } from '../api/problem.ts';
import type { Problem } from '@vatline/contract/endpoint';

const ASK_AFTER_MS = 350;

export function useForecast(
  id: string,
  installation: InstallationInput,
): { readonly forecast: InstallForecast | undefined; readonly problem: Problem | undefined } {
  const [ask, { data, error }] = installedApi.useForecastInstallationMutation();
  const asked = JSON.stringify(installation);
  useEffect(() => {
    const timer = setTimeout(
      () => void ask({ params: { id }, body: JSON.parse(asked) as InstallationInput }),
      ASK_AFTER_MS,
    );
    return () => clearTimeout(timer);
  }, [ask, asked, id]);
  return { forecast: data, problem: problemOf(error) };
}
