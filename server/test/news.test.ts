/** What is told of jobs, how often, and what a listener of the live stream reads. */
import { EventEmitter } from 'node:events';
import type { Request, Response } from 'express';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Topic } from '@vatline/contract/topics';
import { JobNews } from '../src/platform/jobs/job-news.ts';
import { Live } from '../src/platform/live.ts';

beforeEach(() => vi.useFakeTimers());
afterEach(() => vi.useRealTimers());

describe('the news of a job', () => {
  const told: Topic[][] = [];
  beforeEach(() => (told.length = 0));
  const news = () => new JobNews((...topics) => told.push(topics));
  const job = { id: 'job-1', subject: 'pool:pool-1' };

  it('are of it and of what it is about', () => {
    news().changed(job);
    news().changed({ id: 'job-2', subject: 'noise-rules' });
    expect(told).toEqual([['job:job-1', 'pool:pool-1'], ['job:job-2']]);
  });

  it('tell at once how far it is, then not before an eye would see more, and the last of it always', () => {
    const one = news();
    for (let i = 0; i < 1_000; i++) one.progressed(job);
    expect(told).toHaveLength(1);
    vi.advanceTimersByTime(400);
    expect(told).toEqual([
      ['progress:job-1', 'pool:pool-1'],
      ['progress:job-1', 'pool:pool-1'],
    ]);
    vi.advanceTimersByTime(10_000);
    expect(told).toHaveLength(2);
    one.progressed(job);
    expect(told).toHaveLength(3);
  });

  it('of one job do not hold up those of another', () => {
    const one = news();
    one.progressed(job);
    one.progressed({ id: 'job-2', subject: 'line:line-1' });
    expect(told.map(([first]) => first)).toEqual(['progress:job-1', 'progress:job-2']);
  });
});

describe('the live stream', () => {
  /** What a listener reads after some topics were told at once. */
  function readAfter(...topics: Topic[]): unknown[] {
    const live = new Live();
    const read: unknown[] = [];
    const response = Object.assign(new EventEmitter(), {
      writeHead: () => undefined,
      write: (text: string) => {
        const line = /^data: (.*)$/m.exec(text)?.[1];
        if (line !== undefined) read.push(JSON.parse(line));
      },
      end: () => undefined,
    });
    live.handler({} as Request, response as unknown as Response);
    for (const topic of topics) live.changedTopics(topic);
    vi.advanceTimersByTime(1_000);
    live.close();
    return read;
  }

  it('gathers what changes together, each once', () =>
    expect(readAfter('pool:a', 'clock', 'pool:a', 'pool:b')).toEqual([['pool:a', 'pool:b', 'clock']]));
  it('does not name single things where all of the kind are named', () =>
    expect(readAfter('line:a', 'line', 'line:b', 'job:c')).toEqual([['line', 'job:c']]));
  it('names the kind alone where over fifty of it changed', () => {
    const fifty = Array.from({ length: 50 }, (_none, i): Topic => `rollout:${i}`);
    expect(readAfter(...fifty)).toEqual([fifty]);
    expect(readAfter(...fifty, 'rollout:last')).toEqual([['rollout']]);
  });
});
