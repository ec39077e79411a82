/** 1,900 invented people of the county libraries and the groups they are in. */
import { pick, seededRandom } from '@vatline/core/random';

export interface PlannedPerson {
  readonly account: string;
  readonly name: string;
  readonly branch: string;
  readonly role: string;
}

export interface PlannedGroup {
  readonly name: string;
  readonly people: readonly string[];
  readonly groups: readonly string[];
  /** Members are all people of this branch. */
  readonly ruleBranch?: string;
}

const givenNames =
  'Aoife Brin Cormac Deirdre Eamon Fenna Garret Hilde Iona Jorah Kester Linnet Maeve Niall Orla Perrin Quilla Rowan Saoirse Tamsin Una Vaughan Wilf Yestin Zelda Bevan Cato Dilys Elspet Ferris'.split(
    ' ',
  );
const familyNames =
  'Finchley Tarn Aldwark Brackley Corrin Dunmoor Eskrigg Fellgate Garth Hollin Ivelaw Jarrow Kirkham Lathom Mossop Nunwick Oxley Pellow Quarles Raistrick Skelton Thwaite Ulverby Varley Winstan Yewdale Ashgill Birkett Cragg Dalefoot'.split(
    ' ',
  );
const branchNames =
  'Tarnside Market-Cross Eskhaven Millrace Old-Quay Fellview Birkdale-Row Heronsgate Lowmoor Castle-Hill Aldergreen Brightwater Copperfold Dovecote Elmhurst-Lane Foxholme Gatehouse Harrowfield Ivy-Bank Juniper-Way Kingsferry Larkrise Meadowend Northgill Orchard-Row Peatmoor Quarrybank Ridgeway Saltmarsh Thornlea Upperton Valehead Westering Yarrowdale Ashbourne-Row Beckside Cloverly Driftwood Eastwell Fernhill Greyfriars Hollybush Inglewood-Row'.split(
    ' ',
  );

export const branches = branchNames.map((name) => name.replaceAll('-', ' '));

const roles: readonly (readonly [string, number])[] = [
  ['desk clerk', 0.52],
  ['librarian', 0.74],
  ['archivist', 0.82],
  ['contact-centre agent', 0.94],
  ['map curator', 0.97],
  ['office', 1],
];

export function planPeople(seed: string, count: number): PlannedPerson[] {
  const random = seededRandom(`${seed}:people`);
  const taken = new Map<string, number>();
  return Array.from({ length: count }, () => {
    const given = pick(random, givenNames);
    const family = pick(random, familyNames);
    const base = `${given}.${family}`.toLowerCase();
    const number = (taken.get(base) ?? 0) + 1;
    taken.set(base, number);
    const draw = random();
    const role = roles.find(([, limit]) => draw <= limit)?.[0] ?? 'office';
    const branch =
      role === 'contact-centre agent'
        ? 'Contact centre'
        : role === 'map curator'
          ? 'Map archive'
          : pick(random, branches);
    const account = number === 1 ? base : `${base}${number}`;
    return {
      account,
      name: number === 1 ? `${given} ${family}` : `${given} ${family} ${number}`,
      branch,
      role,
    };
  });
}

/** Groups by role, by branch (by rule), and some that hold other groups. */
export function planGroups(people: readonly PlannedPerson[]): PlannedGroup[] {
  const withRole = (role: string) =>
    people.filter((person) => person.role === role).map((person) => person.account);
  const byRole: PlannedGroup[] = [
    { name: 'Desk clerks', people: withRole('desk clerk'), groups: [] },
    { name: 'Librarians', people: withRole('librarian'), groups: [] },
    { name: 'Archivists', people: withRole('archivist'), groups: [] },
    { name: 'Contact-centre agents', people: withRole('contact-centre agent'), groups: [] },
    { name: 'Map curators', people: withRole('map curator'), groups: [] },
    { name: 'Office', people: withRole('office'), groups: [] },
  ];
  const byBranch = branches.slice(0, 34).map((branch): PlannedGroup => ({
    name: `${branch} branch`,
    people: [],
    groups: [],
    ruleBranch: branch,
  }));
  const pilots = people.filter((_person, i) => i % 60 === 7).map((person) => person.account);
  return [
    ...byRole,
    ...byBranch,
    { name: 'Branch staff', people: [], groups: ['Desk clerks', 'Librarians'] },
    { name: 'Records and maps', people: [], groups: ['Archivists', 'Map curators'] },
    {
      name: 'All staff',
      people: [],
      groups: ['Branch staff', 'Records and maps', 'Contact-centre agents', 'Office'],
    },
    { name: 'Pilot group', people: pilots, groups: [] },
    { name: 'Reading-room accounts', people: withRole('librarian').slice(0, 60), groups: [] },
  ];
}
