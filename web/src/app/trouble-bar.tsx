import { api } from '../shell/api.ts';

/** What keeps the whole server from working, on every screen, until it is over. */
export function TroubleBar() {
  const { data } = api.useClockQuery({});
  if (!data?.trouble) return null;
  return (
    <div className="trouble-bar" role="alert">
      <b>Nothing is being done.</b> {data.trouble}.
    </div>
  );
}
