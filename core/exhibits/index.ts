export { applied, chosenOn, currentList, firstLists, inOrder, listsOfLines } from './lists';
export type {
  ChosenKind,
  ExhibitChange,
  ExhibitEntry,
  ExhibitFacts,
  ExhibitList,
  ExhibitLists
} from './lists';
