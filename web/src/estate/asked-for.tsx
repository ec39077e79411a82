/** What sites and providers were asked for, and what they said. */
import type { SiteRequest } from '@vatline/contract/capacity';
import { estateApi } from '../api/estate.ts';
import { moment, plural, size } from '../parts/format.ts';
import { useEstateTime } from '../shell/clock.ts';

interface Row {
  readonly id: string;
  readonly site: string;
  readonly what: string;
  readonly title: string;
  readonly askedAt: number;
  readonly state: string;
  readonly answer: string;
  readonly answeredAt: number | null;
}

export function AskedFor({ requests }: { requests: readonly SiteRequest[] }) {
  const { zone } = useEstateTime();
  const { data: quotas = [] } = estateApi.useQuotaRequestsQuery({});
  const rows: Row[] = [
    ...requests.map((request) => ({
      ...request,
      site: request.name,
      what: `a site in ${request.region} of ${request.provider}`,
      title: request.networks.map((network) => `${network.name} ${network.range}`).join(', '),
    })),
    ...quotas.map((request) => ({
      ...request,
      what: [
        request.cores > 0 && plural(request.cores, 'core'),
        request.memoryBytes > 0 && `${size(request.memoryBytes)} of memory`,
        request.graphics > 0 && plural(request.graphics, 'graphics processor'),
      ]
        .filter(Boolean)
        .join(', '),
      title: request.text,
    })),
  ].sort((a, b) => b.askedAt - a.askedAt);
  if (rows.length === 0) return null;
  return (
    <>
      <h2 className="section-title">Asked for</h2>
      <table className="table estate-table">
        <tbody>
          {rows.map((row) => (
            <tr key={row.id} title={row.title}>
              <td className="mono strong">{row.site}</td>
              <td>{row.what}</td>
              <td className="quiet">asked {moment(row.askedAt, zone)}</td>
              <td className={row.state === 'refused' ? 'trouble' : ''}>
                {row.state === 'asked'
                  ? 'not answered yet'
                  : `${row.state} ${row.answeredAt === null ? '' : moment(row.answeredAt, zone)}${row.answer && `: ${row.answer}`}`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
