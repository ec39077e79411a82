/**
 * Loaded into a server under test: once armed (SIGUSR2), the process kills itself, as a power cut
 * would, right after the n-th change of either database (KILL_AT_WRITE).
 */
const Database = require('better-sqlite3');

let left = Number(process.env.KILL_AT_WRITE);
let armed = false;
process.on('SIGUSR2', () => (armed = true));

const prepare = Database.prototype.prepare;
Database.prototype.prepare = function (sql) {
  const statement = prepare.call(this, sql);
  // The estate's clock is written at every look at it; what matters is what else is.
  if (!/^\s*(insert|update|delete)/i.test(sql) || /"setting"/.test(sql)) return statement;
  for (const method of ['run', 'all', 'get']) {
    const call = statement[method];
    statement[method] = (...values) => {
      const result = call.apply(statement, values);
      if (armed && --left <= 0) process.kill(process.pid, 'SIGKILL');
      return result;
    };
  }
  return statement;
};
