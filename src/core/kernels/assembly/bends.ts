// Copies that are bent where lines would miss each other. AssemblyScript; see core/methods/fill/bends/bend-net.ts for the contract.

export { claim, release } from './arena';
export { copy, extents, makeCopies, originsAt, rolesAt } from './bends/copies';
export { hold, lay, letGo, settle } from './bends/net';
export { countJoins, divide, listJoins } from './bends/parts';
export { solve } from './bends/solve';
export { countWorse, listWorse, makeStretches } from './bends/worse';
