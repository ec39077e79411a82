/** Loaded before a program: tells its peak memory when it ends. */
process.on('exit', () =>
  process.stderr.write(`peak ${Math.round(process.resourceUsage().maxRSS / 1000)} MB\n`),
);
