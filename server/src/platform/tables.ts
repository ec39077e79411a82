/** The tables of `vatline.sqlite`. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { Generated } from 'kysely';

export interface Tables {
  job: {
    id: string;
    kind: string;
    title: string;
    subject: string;
    state: string;
    input_json: string;
    error: string | null;
    cancel: number;
    /** Set while it is to stop before its next step, or has. */
    pause: number;
    /** 1 once what it made was taken back. */
    undone: Generated<number>;
    created_ms: number;
    ended_ms: number | null;
  };
  job_step: {
    job_id: string;
    number: number;
    title: string;
    state: string;
    progress: number;
    started_ms: number | null;
    ended_ms: number | null;
  };
  /** Hosts that are being made, with the room they will take. */
  host_reserved: {
    name: string;
    pool_id: string;
    site: string;
    datastore: string;
    cores: number;
    bytes: number;
  };
  setting: { name: string; value: string };
  job_log: { id: Generated<number>; job_id: string; step: number; at_ms: number; text: string };
  ledger: {
    job_id: string;
    number: number;
    object: string;
    system: string;
    state: string;
    key: string;
    detail: string;
    attempts: number;
  };
  image_line: {
    id: string;
    name: string;
    purpose: string;
    hardware_json: string;
    recipe_revision: number;
    /** Computer name of its build machine, also before there is one. */
    machine_name: string;
    machine_id: string | null;
    /** Checkpoint key of what has been run on the machine. */
    machine_key: string | null;
    dye_offset: number;
    created_ms: number;
    /** How many versions retention keeps besides those in use; null keeps all. */
    keep_versions: number | null;
    /** Version of another line that it was started from. */
    forked_from: string | null;
    checkpoint_budget_bytes: number;
  };
  fragment_revision: {
    name: string;
    revision: number;
    steps_json: string;
    note: string;
    created_ms: number;
  };
  hand_note: { id: Generated<number>; line_id: string; text: string; at_ms: number };
  application: { id: Generated<number>; publisher: string; name: string; version: string };
  version_holds: { version_id: string; application_id: number };
  recipe: {
    line_id: string;
    revision: number;
    steps_json: string;
    hardware_json: string;
    created_ms: number;
  };
  check_off: { line_id: string; check_id: string; reason: string; at_ms: number };
  checkpoint: {
    line_id: string;
    key: string;
    snapshot_id: string;
    /** Index of its step in the recipe it was made by. */
    step: number;
    used_ms: number;
    size_bytes: number;
  };
  step_duration: {
    id: Generated<number>;
    line_id: string;
    identity: string;
    minutes: number;
    at_ms: number;
    /** The job it ran in. */
    build: string;
  };
  image_version: {
    id: string;
    line_id: string;
    number: number;
    dye: string;
    state: string;
    note: string;
    /** 0 when it was made elsewhere. */
    recipe_revision: number;
    image_id: string;
    inventory: string;
    size_bytes: number;
    cut_ms: number;
    /** When its image was deleted; null while it is there. */
    gone_ms: number | null;
    /** Whether `version_holds` tells its applications. */
    indexed: number;
    /** The job that cut or imported it; null for those from before. */
    job_id: string | null;
    /** Hardware of a version that was made elsewhere. */
    hardware_json: string | null;
  };
  version_change: {
    id: Generated<number>;
    version_id: string;
    state: string;
    by_role: string;
    note: string;
    at_ms: number;
  };
  cut_schedule: {
    line_id: string;
    schedule_json: string;
    /** No occurrence up to it counts any more. */
    after_ms: number;
    last_ms: number | null;
    last_outcome: string;
    revision: Generated<number>;
  };
  follow_up: {
    id: string;
    version_id: string;
    /** Place among the rollouts that follow one cut, from 0. */
    number: number;
    pool_id: string;
    request_json: string;
    not_before_ms: number;
    /** Start of the window it waits for. */
    due_ms: number | null;
    state: string;
    rollout_id: string | null;
    note: string;
  };
  package: {
    id: string;
    name: string;
    publisher: string;
    delivery: string;
    note: string;
    /** Whether several versions may reach a person at once. */
    side_by_side: Generated<number>;
    /** How many versions retention keeps besides those in use; null keeps all. */
    keep_versions: number | null;
  };
  package_version: {
    id: string;
    package_id: string;
    version: string;
    state: string;
    digest: string;
    files: number;
    size_bytes: number;
    container_bytes: number;
    entry_points_json: string;
    built_ms: number;
    /** Format of the chosen container, whose digest the version has. */
    format: string;
    capture_id: string | null;
    /** What was found when it was verified last. */
    verified_json: string | null;
    verified_ms: number | null;
    certificate_id: string | null;
    signed_ms: number | null;
    /** Certificate of its signature and those above it, in PEM; null without a signature. */
    signer_pem: string | null;
    /** What its manifest says besides name, publisher, version and entry points. */
    details_json: string;
    /** The share that hosts read it from, once it was uploaded whole. */
    share: string | null;
    /** What attaching it took on a host, measured by a trial. */
    sign_in_json: string | null;
  };
  container: {
    version_id: string;
    format: string;
    digest: string;
    size_bytes: number;
    seconds: number;
    built_ms: number;
  };
  certificate: {
    id: string;
    name: string;
    chain_pem: string;
    /** The private key, encrypted with a key that is not in the database. */
    sealed_key: string;
    created_ms: number;
  };
  capture: {
    id: string;
    package_name: string;
    source: string;
    /** Installers, and how the machine was to behave. */
    request_json: string;
    state: string;
    proposal_json: string;
    counts_json: string | null;
    created_ms: number;
    /** The rules of one's own that judged it; empty and 0 for the built-in ones alone. */
    rules_name: string;
    rules_revision: number;
    draft_json: string | null;
  };
  installation: {
    id: string;
    name: string;
    version: string;
    installation_json: string;
    archive_digest: string | null;
    archive_bytes: number | null;
    archive_files: number | null;
    created_ms: number;
    revision: Generated<number>;
  };
  install_report: {
    installation_id: string;
    host: string;
    state: string;
    code: number | null;
    why: string;
    /** When it ended, or when its agent is to begin. */
    at_ms: number;
  };
  bulk_row: { job_id: string; number: number; what: string; state: string; result: string };
  option_suite: {
    id: string;
    name: string;
    suite_json: string;
    created_ms: number;
    revision: Generated<number>;
  };
  option_sheet: {
    suite_id: string;
    name: string;
    values_json: string;
    changed_ms: number;
    revision: Generated<number>;
  };
  rule_set_revision: {
    name: string;
    revision: number;
    rules_json: string;
    note: string;
    created_ms: number;
  };
  pool: {
    id: string;
    name: string;
    kind: string;
    clone: string;
    line_id: string;
    pattern: string;
    ou: string;
    site: string;
    datastore: string;
    processors: number;
    session_limit: number;
    blend_id: string | null;
    created_ms: number;
  };
  blend: {
    id: string;
    pool_id: string;
    number: number;
    image_version_id: string;
    packages_json: string;
    made_ms: number;
  };
  host: {
    id: string;
    pool_id: string;
    name: string;
    machine_id: string;
    state: string;
    /** The blend it runs; while at work, the one it ran last. */
    blend_id: string;
    next_blend_id: string | null;
    /** For people; nothing is decided by it. */
    note: string;
    /** 1 while the host holds exactly its blend; 0 from a failure in the middle of its work until it is done. */
    contents_known: Generated<number>;
  };
  rollout: {
    id: string;
    pool_id: string;
    from_blend_id: string;
    to_blend_id: string;
    state: string;
    is_return: number;
    request_json: string;
    started_ms: number;
    ended_ms: number | null;
    promised_ms: number | null;
    /** Set while hosts still at work are finished before the way back begins: its batch, 0 for the same. */
    return_batch: number | null;
    seed: number;
  };
  rollout_host: {
    rollout_id: string;
    host_id: string;
    number: number;
    stage: string;
    attempts: number;
    started_ms: number | null;
    /** When it was drained and the work began. */
    work_ms: number | null;
    finished_ms: number | null;
    error: string | null;
  };
  assignment: { id: string; group_name: string; pool_id: string; package_id: string | null };
  journal: {
    id: Generated<number>;
    at_ms: number;
    kind: string;
    subject: string;
    text: string;
    link: string;
  };
}
