/** The calendars that a plan keeps to: no window begins on their closed days. */
import { Select } from 'antd';
import { MOST_CALENDAR_TEXT, type Calendar } from '@vatline/contract/calendar';
import { calendarsApi } from '../api/calendars.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { Field } from '../parts/field.tsx';
import { TextFileButton } from '../parts/text-file-button.tsx';
import { closedInWords } from './closed-in-words.ts';

interface Props {
  readonly chosen: readonly string[];
  readonly onChange: (calendarIds: string[]) => void;
  readonly fault: string | undefined;
}

export function ClosedDaysField({ chosen, onChange, fault }: Props) {
  const { data: calendars = [] } = calendarsApi.useCalendarsQuery({});
  const [add, { error }] = calendarsApi.useAddCalendarMutation();
  const problem = problemOf(error);
  const keep = async (text: string, fileName: string) => {
    const name = fileName.replace(/\.[^.]*$/, '');
    const { data } = await add({ body: { name, text } });
    if (data) onChange([...chosen, data.id]);
  };
  const kept = calendars.filter((calendar) => chosen.includes(calendar.id));
  const refused = problem && (faultAt(problem, 'text') ?? faultAt(problem, 'name') ?? problem.detail);
  return (
    <>
      <Field label="Closed days" fault={fault ?? refused} hint={hintOf(kept)}>
        <Select
          mode="multiple"
          aria-label="Closed days"
          placeholder="none: every night of the rule"
          value={[...chosen]}
          onChange={onChange}
          options={calendars.map(({ id, name }) => ({ value: id, label: name }))}
        />
      </Field>
      <TextFileButton
        accept=".ics,text/calendar"
        mostBytes={MOST_CALENDAR_TEXT}
        onText={(text, name) => void keep(text, name)}
      >
        Add an iCalendar file
      </TextFileButton>
    </>
  );
}

function hintOf(kept: readonly Calendar[]): string | undefined {
  if (kept.length === 0) return undefined;
  return closedInWords(kept.flatMap((calendar) => calendar.nextDates));
}
