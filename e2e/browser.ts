/** Debian's Chromium, driven as a person would: by what is written on the screen. */
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import puppeteer, { type Browser, type ElementHandle, type Page } from 'puppeteer-core';

const flags =
  '--headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-component-update --disable-sync'.split(
    ' ',
  );
const WAIT_MS = 40_000;

export class Visitor {
  /** Errors in the page's console, which no journey may leave. */
  readonly errors: string[] = [];

  private constructor(
    private readonly browser: Browser,
    readonly page: Page,
    private readonly profile: string,
  ) {}

  static async open(): Promise<Visitor> {
    const profile = mkdtempSync(join(tmpdir(), 'vatline-chromium-'));
    const browser = await puppeteer.launch({
      executablePath: '/usr/bin/chromium',
      args: flags,
      userDataDir: profile,
    });
    const page = await browser.newPage();
    await page.setViewport({ width: 1280, height: 800 });
    page.setDefaultTimeout(WAIT_MS);
    const visitor = new Visitor(browser, page, profile);
    page.on('pageerror', (error) => visitor.errors.push(String(error)));
    page.on('console', (message) => {
      // Refused requests, and a server that is killed, are part of some journeys; the page shows them.
      if (
        message.type() === 'error' &&
        !/status of 4\d\d|net::ERR_(CONNECTION_REFUSED|INCOMPLETE_CHUNKED_ENCODING|EMPTY_RESPONSE|CONNECTION_RESET|SOCKET_NOT_CONNECTED)/.test(
          message.text(),
        )
      )
        visitor.errors.push(message.text());
    });
    return visitor;
  }

  async close(): Promise<void> {
    await this.browser.close();
    rmSync(this.profile, { recursive: true, force: true });
  }

  /** Clicks a button, link or tab by its name. */
  async click(name: string): Promise<void> {
    await this.page.locator(`::-p-aria([name="${name}"])`).click();
  }

  /** Clicks the first element that holds exactly this text. */
  async clickText(text: string): Promise<void> {
    await this.page.locator(`::-p-text(${text})`).click();
  }

  /** Types into a field by its label, in place of what is there. */
  async type(label: string, text: string): Promise<void> {
    const handle = await this.page.waitForFunction(
      (wanted) => {
        const labelled = [...document.querySelectorAll('label')].find(
          (own) => own.querySelector('.field-label')?.textContent === wanted,
        );
        return (
          labelled?.querySelector('input, textarea') ??
          document.querySelector(`input[aria-label="${wanted}"]`)
        );
      },
      {},
      label,
    );
    const field = handle.asElement();
    if (!field) throw new Error(`there is no field ${label}`);
    await field.evaluate((element) => {
      (element as HTMLInputElement).focus();
      (element as HTMLInputElement).select();
    });
    await this.page.keyboard.press('Backspace');
    await this.page.keyboard.type(text);
  }

  /** Presses a key while Control is held. */
  async pressControl(key: 'k' | 'End'): Promise<void> {
    await this.page.keyboard.down('Control');
    await this.page.keyboard.press(key);
    await this.page.keyboard.up('Control');
  }

  /** Goes to the end of the text editor. */
  async toEndOfText(): Promise<void> {
    await this.page.locator('.cm-content').click();
    await this.pressControl('End');
  }

  /** Gives a file to a file field by its name. */
  async attach(name: string, path: string): Promise<void> {
    const field = await this.page.waitForSelector(`input[type="file"][name="${name}"]`);
    await (field as ElementHandle<HTMLInputElement>).uploadFile(path);
  }

  /** Gives a file field a file with this content. */
  async attachText(name: string, fileName: string, content: string): Promise<void> {
    const path = join(this.profile, fileName);
    writeFileSync(path, content);
    await this.attach(name, path);
  }

  /** Clicks a button that saves a file, and gives its path once it is there. */
  async saves(button: string): Promise<string> {
    const folder = mkdtempSync(join(this.profile, 'saved-'));
    const session = await this.browser.target().createCDPSession();
    await session.send('Browser.setDownloadBehavior', {
      behavior: 'allow',
      downloadPath: folder,
      eventsEnabled: true,
    });
    const saved = new Promise<void>((done) =>
      session.on('Browser.downloadProgress', (event) => event.state === 'completed' && done()),
    );
    await this.click(button);
    await saved;
    await session.detach();
    const [name = ''] = readdirSync(folder);
    return join(folder, name);
  }

  /** Gives a button that asks for a file one with this content. */
  async give(button: string, fileName: string, content: string): Promise<void> {
    const path = join(this.profile, fileName);
    writeFileSync(path, content);
    const field = await this.page.waitForSelector(`input[type="file"][aria-label="${button}"]`);
    await (field as ElementHandle<HTMLInputElement>).uploadFile(path);
  }

  /** Chooses an option of a drop-down by its label and (the beginning of) the option's text. */
  async choose(label: string, option: string): Promise<void> {
    const field = await this.page.locator(`::-p-aria([name="${label}"][role="combobox"])`).waitHandle();
    await field.click();
    const selector = '.ant-select-dropdown:not(.ant-select-dropdown-hidden) .ant-select-item-option';
    await this.page.waitForFunction(
      (css, text) => [...document.querySelectorAll(css)].some((o) => o.textContent?.includes(text)),
      {},
      selector,
      option,
    );
    await this.page.evaluate(
      (css, text) =>
        [...document.querySelectorAll<HTMLElement>(css)].find((o) => o.textContent?.includes(text))?.click(),
      selector,
      option,
    );
  }

  /** Waits until the screen shows a text (or one that matches). */
  async sees(text: string | RegExp, within = 'body'): Promise<string> {
    const source = typeof text === 'string' ? text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&') : text.source;
    const handle = await this.page
      .waitForFunction(
        (css, pattern) =>
          new RegExp(pattern).exec(
            (document.querySelector<HTMLElement>(css)?.innerText ?? '').replace(/\s+/g, ' '),
          )?.[0],
        { timeout: WAIT_MS },
        within,
        source,
      )
      .catch(async (error: unknown) => {
        const shown = await this.page.evaluate(() => document.body.innerText.slice(0, 2_500));
        throw new Error(`the screen never showed ${String(text)}; it shows:\n${shown}`, { cause: error });
      });
    return (await handle.jsonValue()) as string;
  }

  /** What axe finds wrong with the page as it is. */
  async violations(): Promise<string[]> {
    const tool = createRequire(import.meta.url).resolve('axe-core/axe.min.js');
    await this.page.evaluate(readFileSync(tool, 'utf8'));
    return this.page.evaluate(async () => {
      const { axe } = window as unknown as {
        axe: { run(): Promise<{ violations: { id: string; nodes: { html: string }[] }[] }> };
      };
      return (await axe.run()).violations.map(
        (row) => `${row.id}: ${row.nodes.map((node) => node.html.slice(0, 160)).join(' | ')}`,
      );
    });
  }

  /** The large answer of the bench. */
  async answer(text: string | RegExp): Promise<string> {
    return this.sees(text, 'h1.answer');
  }
}
