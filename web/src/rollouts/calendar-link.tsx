/** The calendar of all that is planned: taken as a file, or subscribed to by its address. */
import { Button } from 'antd';
import { plannedFileEndpoints } from '@vatline/contract/planned';
import { addressOf } from '../api/base.ts';

export function CalendarLink() {
  const path = `/api/v1${addressOf(plannedFileEndpoints.calendar)}`;
  return (
    <>
      <h2>All that is planned</h2>
      <p className="quiet">
        Windows of rollouts, and cuts that schedules plan. A calendar that subscribes to the address follows
        what changes.
      </p>
      <span className="row">
        <Button size="small" href={path} download="vat-line.ics">
          Take as iCalendar
        </Button>
        <Button size="small" onClick={() => void navigator.clipboard.writeText(location.origin + path)}>
          Copy its address
        </Button>
      </span>
    </>
  );
}
