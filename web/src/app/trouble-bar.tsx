import { estateApi } from '../api/estate.ts';

/** What keeps the whole server from working, on every screen, until it is over. */
export function TroubleBar() {
  const { data } = estateApi.useClockQuery({});
  if (!data?.trouble) return null;
  return (
    <div className="trouble-bar" role="alert">
      <b>Nothing is being done.</b> {data.trouble}.
    </div>
  );
}
