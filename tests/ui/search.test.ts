/** What the search of the desk finds: by its own words, and by words of the trade. */
import { scoreOf } from '@/ui/desk/search-score';

it('finds by every word that was typed, wherever it stands', () => {
  expect(scoreOf('remedy Rename from a table rename', 'rename')).toBe(1);
  expect(scoreOf('room Weights', 'paint', ['paint', 'brush'])).toBe(0.5);
  expect(scoreOf('bone arm_upper_lt 4', 'upper arm')).toBe(1);
  expect(scoreOf('room Weights', 'crosswalk', ['paint'])).toBe(0);
});
