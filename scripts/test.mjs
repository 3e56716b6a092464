/** Everything, on a fresh machine: install, check, unit tests, build, journeys in a real browser. */
import { build, installDebian, installPackages, run } from './ready.mjs';

installPackages();
installDebian('chromium', 'chromium');
run('npm', ['run', '--silent', 'check']);
build();
run('npx', ['--no-install', 'playwright', 'test']);
