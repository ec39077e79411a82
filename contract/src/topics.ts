/**
 * What changes and who is to hear of it. A topic is a kind of thing, `line`, meaning all of them, or
 * one thing, `line:<id>`. The subject of a job is a topic too.
 */
export const topicKinds = [
  'clock',
  'estate',
  'line',
  'delta',
  'package',
  'capture',
  'draft',
  'package-version',
  'installation',
  'bulk',
  'pool',
  'rollout',
  'ring-order',
  'kept-plan',
  'staged',
  'calendar',
  'access',
  // A job's state; how far it is comes many times a second and is a topic of its own.
  'job',
  'progress',
  'journal',
  'caller',
] as const;
export type TopicKind = (typeof topicKinds)[number];
export type Topic = TopicKind | `${TopicKind}:${string}`;

/** What was asked of an endpoint, as far as topics are found in it. */
export interface Asked {
  readonly params?: unknown;
  readonly query?: unknown;
  readonly body?: unknown;
}

/**
 * The topics of an endpoint for one call: `line:{id}` takes the `id` of the address, of the query, of
 * the body or of the answer; where none has it, all of the kind are meant.
 */
export function topicsOf(templates: readonly Topic[], asked: Asked, answer?: unknown): Topic[] {
  const places = [asked.params, asked.query, asked.body, answer] as (Record<string, unknown> | undefined)[];
  return templates.map((template): Topic => {
    const [kind, name] = partsOf(template);
    const field = /^\{(\w+)\}$/.exec(name)?.[1];
    if (field === undefined) return template;
    const found = places.find((place) => typeof place?.[field] === 'string')?.[field] as string | undefined;
    return found === undefined ? kind : `${kind}:${found}`;
  });
}

/** The kind of a topic, and which one; empty when it means all. */
export function partsOf(topic: Topic): [TopicKind, string] {
  const at = topic.indexOf(':');
  return at < 0 ? [topic as TopicKind, ''] : [topic.slice(0, at) as TopicKind, topic.slice(at + 1)];
}

/** Whether news of some topics are news of one of others: of the same thing, or where either means all of a kind. */
export function concerns(news: readonly Topic[], others: readonly Topic[]): boolean {
  return news.some((told) => {
    const [kind, id] = partsOf(told);
    return others.some((other) => {
      const [otherKind, otherId] = partsOf(other);
      return kind === otherKind && (id === '' || otherId === '' || id === otherId);
    });
  });
}

/** The subject of a job as a topic; none for a subject that nobody looks at. */
export function topicOfSubject(subject: string): Topic[] {
  const [kind] = partsOf(subject as Topic);
  return topicKinds.includes(kind) ? [subject as Topic] : [];
}
