/** Which fields a step of each kind has, and how each is filled in. */
import {
  certificateStores,
  cleanUpTargets,
  registryTypes,
  scriptLanguages,
  serviceStarts,
  updateCategories,
  type StepKind,
} from '@vatline/core/image/recipe';

export interface StepField {
  readonly name: string;
  readonly label: string;
  /** `codes` are numbers and `list` texts, with commas between; `text` when absent. */
  readonly form?:
    'text' | 'script' | 'list' | 'codes' | 'number' | 'choice' | 'choices' | 'unit' | 'installer';
  readonly choices?: readonly string[];
  readonly wide?: boolean;
  readonly hint?: string;
  /** An empty field is left out of the step. */
  readonly optional?: boolean;
}

const publisher: StepField = { name: 'publisher', label: 'Publisher' };
const version: StepField = { name: 'version', label: 'Version' };
const installer: StepField = {
  name: 'name',
  label: 'Name',
  form: 'installer',
  hint: 'a known name fills in the rest',
};
const digest = (of: string): StepField => ({ name: 'digest', label: `SHA-256 of ${of}`, wide: true });

export const stepFields: Record<StepKind, readonly StepField[]> = {
  'operating system': [
    { name: 'system', label: 'System' },
    { name: 'edition', label: 'Edition' },
    { name: 'language', label: 'Language', optional: true, hint: 'a tag such as en-IE' },
    { name: 'mediaDigest', label: 'SHA-256 of the media', wide: true },
  ],
  updates: [
    { name: 'release', label: 'Up to release', hint: 'year and month, as 2027-03' },
    { name: 'feed', label: 'Feed', optional: true, hint: 'empty: the only one' },
    {
      name: 'categories',
      label: 'Categories',
      form: 'choices',
      choices: updateCategories,
      optional: true,
      hint: 'empty: everything',
    },
  ],
  'guest tools': [version, { name: 'drivers', label: 'Drivers', form: 'list', hint: 'with commas between' }],
  'language pack': [{ name: 'language', label: 'Language', hint: 'a tag such as ga-IE' }],
  application: [
    installer,
    publisher,
    version,
    { name: 'exitCodes', label: 'Exit codes that mean success', form: 'codes' },
    {
      name: 'command',
      label: 'Silent command',
      wide: true,
      hint: 'without a silent switch the installer waits for a click that nobody makes',
    },
  ],
  'packaged application': [installer, publisher, version, digest('the container')],
  // Chosen from the sheets that are filled.
  'application by option sheet': [],
  'file copy': [
    { name: 'source', label: 'From', wide: true },
    { name: 'target', label: 'To', wide: true },
    digest('the file'),
  ],
  shortcut: [
    { name: 'name', label: 'Name' },
    { name: 'place', label: 'Place', form: 'choice', choices: ['desktop', 'start menu'] },
    { name: 'target', label: 'Opens', wide: true },
  ],
  'registry setting': [
    { name: 'key', label: 'Key', wide: true },
    { name: 'name', label: 'Value name', hint: 'empty: the default value' },
    { name: 'type', label: 'Type', form: 'choice', choices: registryTypes },
    { name: 'value', label: 'Value', wide: true },
  ],
  'service start': [
    { name: 'name', label: 'Service' },
    { name: 'start', label: 'Starts', form: 'choice', choices: serviceStarts },
  ],
  'scheduled task': [
    { name: 'name', label: 'Task' },
    { name: 'action', label: 'Action', form: 'choice', choices: ['create', 'remove'] },
    { name: 'command', label: 'Runs', wide: true },
    { name: 'schedule', label: 'When' },
  ],
  certificate: [
    { name: 'subject', label: 'Subject' },
    { name: 'store', label: 'Store', form: 'choice', choices: certificateStores },
    digest('the certificate'),
  ],
  script: [
    { name: 'title', label: 'Title' },
    { name: 'language', label: 'Language', form: 'choice', choices: scriptLanguages, optional: true },
    { name: 'text', label: 'Script', form: 'script', wide: true },
  ],
  'join directory': [{ name: 'ou', label: 'Organisational unit', form: 'unit', wide: true }],
  'host agent': [version],
  'profile agent': [version, { name: 'share', label: 'Share of the profiles' }],
  'settings baseline': [
    { name: 'baseline', label: 'Baseline' },
    { name: 'revision', label: 'Revision', form: 'number' },
  ],
  restart: [],
  'wait for settle': [{ name: 'limitMinutes', label: 'Minutes at most', form: 'number' }],
  // Its two fields depend on what fragments there are.
  fragment: [],
  'clean-up': [{ name: 'targets', label: 'Clears', form: 'choices', choices: cleanUpTargets, wide: true }],
};
