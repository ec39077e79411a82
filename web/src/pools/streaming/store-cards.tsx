/** Each store: streams in use and left, and the images that it holds for hosts. */
import type { StreamingStore } from '@vatline/contract/pool/streaming';
import { money, plural, size } from '../../parts/format.ts';

export function StoreCards({ stores }: { stores: readonly StreamingStore[] }) {
  return (
    <>
      <h2>Streaming stores</h2>
      {stores.map((store) => (
        <OneStore key={store.name} store={store} />
      ))}
      {stores.length === 0 && <p className="quiet">The estate has none.</p>}
    </>
  );
}

function OneStore({ store }: { store: StreamingStore }) {
  const { name, site, streams, hosts, capacityBytes, usedBytes, price, images } = store;
  const left = streams.total - hosts;
  return (
    <section className="stream-store" aria-label={name}>
      <h3>
        {name} <span className="quiet">on {site}</span>
      </h3>
      <p>
        {streams.used} of {plural(streams.total, 'stream')} in use;{' '}
        {left === 0
          ? `${plural(hosts, 'host')} take all of them`
          : `${plural(hosts, 'host')} stream from it, so that ${left} more can`}
        .
      </p>
      <div className="share-bar" aria-hidden>
        <i style={{ width: `${(streams.used / Math.max(1, streams.total)) * 100}%` }} />
      </div>
      <p className="quiet">
        {size(usedBytes)} of {size(capacityBytes)} taken by images, {money((usedBytes / 1e9) * price)} a month
      </p>
      <ul className="plain-list">
        {images.map((image) => (
          <li key={image.imageId} className="spread">
            <span>
              {image.name || 'an image of no line'} <span className="quiet">{size(image.bytes)}</span>
            </span>
            <span>
              {plural(image.now, 'host')}
              {image.next > 0 && `, ${image.next} from their next start on`}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
