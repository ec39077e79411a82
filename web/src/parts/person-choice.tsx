/** Chooses one person of the directory, of whom there are too many for a list. */
import { Select } from 'antd';
import { useState } from 'react';
import { estateApi } from '../api/estate.ts';
import { plural } from './format.ts';
import { rowsOf, totalOf } from './paged-list.tsx';

/** People that are asked for at once. */
const SHOWN = 30;

interface Props {
  readonly label: string;
  /** The account. */
  readonly value: string | null;
  readonly onChange: (account: string | undefined) => void;
}

export function PersonChoice({ label, value, onChange }: Props) {
  const [text, setText] = useState('');
  const list = estateApi.useUsersInfiniteQuery({ query: { q: text, limit: SHOWN } });
  const people = rowsOf(list);
  const more = (totalOf(list) ?? 0) - people.length;
  return (
    <Select
      showSearch
      allowClear
      filterOption={false}
      aria-label={label}
      placeholder="a person: name, account or role"
      style={{ width: 340 }}
      value={value}
      onSearch={setText}
      onChange={(account: string | null | undefined) => onChange(account ?? undefined)}
      options={people.map((person) => ({
        value: person.account,
        label: `${person.name}, ${person.role}, ${person.branch}`,
      }))}
      onPopupScroll={({ currentTarget: { scrollTop, clientHeight, scrollHeight } }) => {
        if (list.hasNextPage && scrollTop + 2 * clientHeight > scrollHeight) void list.fetchNextPage();
      }}
      popupRender={(menu) => (
        <>
          {menu}
          {more > 0 && (
            <p className="quiet small picker-more">
              {plural(more, 'more person', 'more people')}; scroll or type on
            </p>
          )}
        </>
      )}
    />
  );
}
