/** Preloaded into a program under test: writes the most memory it ever held, in KiB, where it is told to. */
process.on('exit', () => require('node:fs').writeFileSync(process.env.POUR_RSS, String(process.resourceUsage().maxRSS)))
