/**
 * Loaded into a server under test: while the file that DISK_FULL names is there, nothing can be
 * written, neither to the databases nor to files, as on a full disk.
 */
const fs = require('node:fs');
const Database = require('better-sqlite3');

const isFull = () => fs.existsSync(process.env.DISK_FULL);
const full = (code) =>
  Object.assign(
    new Error(code === 'ENOSPC' ? 'ENOSPC: no space left on device, write' : 'database or disk is full'),
    { code },
  );

const prepare = Database.prototype.prepare;
Database.prototype.prepare = function (sql) {
  const statement = prepare.call(this, sql);
  if (!/^\s*(insert|update|delete)/i.test(sql)) return statement;
  for (const method of ['run', 'all', 'get']) {
    const call = statement[method];
    statement[method] = (...values) => {
      if (isFull()) throw full('SQLITE_FULL');
      return call.apply(statement, values);
    };
  }
  return statement;
};
const { writeSync } = fs;
fs.writeSync = (handle, ...rest) => {
  if (handle > 2 && isFull()) throw full('ENOSPC');
  return writeSync(handle, ...rest);
};
require('node:module').syncBuiltinESMExports();
