/** Loaded before a program under test: writes the most memory it ever held, in KiB, where it is told to. */
import { writeFileSync } from 'node:fs'

process.on('exit', () => writeFileSync(process.env.POUR_RSS, String(process.resourceUsage().maxRSS)))
