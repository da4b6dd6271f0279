//! Levelling: which cycles to move, within what each allows, so that no week holds more than a crew can do.
//!
//! What is made least is the sum over the weeks of max(0, load − capacity)², then the number of moves. Few cycles are searched to
//! the end; many are improved one by one and pair by pair until nothing more helps, which is no proof that nothing better exists.

/// Where a cycle can be done, or a chain of them that move together.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Place {
    /// By how many weeks it is moved then.
    pub shift: i64,
    /// Week and milliseconds of work.
    pub load: Vec<(usize, i64)>,
}

/// A cycle, or a chain of them, with all places it can have.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Movable {
    /// As it stands, among the places.
    pub stands: usize,
    pub places: Vec<Place>,
}

/// What levelling came to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Levelled {
    /// For each movable, the place it has then.
    pub chosen: Vec<usize>,
    /// Whether everything was tried: nothing is better.
    pub is_proven: bool,
}

/// Searched to the end up to so many, and so many steps of the search.
const SEARCHED: usize = 12;
const MOST_STEPS: u32 = 3_000_000;

/// Rounds of improvement at the most.
const MOST_ROUNDS: usize = 200;

/// The sum over weeks of max(0, load − capacity)², in square milliseconds.
#[must_use]
pub fn excess(load: &[i64], capacity: &[i64]) -> i128 {
    load.iter().zip(capacity).map(|(load, capacity)| over(*load, *capacity)).sum()
}

fn over(load: i64, capacity: i64) -> i128 {
    let over = i128::from((load - capacity).max(0));
    over * over
}

/// A load that places are put on and taken off, with its excess.
struct Weeks<'a> {
    load: Vec<i64>,
    capacity: &'a [i64],
    excess: i128,
}

impl Weeks<'_> {
    fn put(&mut self, place: &Place, sign: i64) {
        for (week, ms) in &place.load {
            let (Some(load), Some(capacity)) = (self.load.get_mut(*week), self.capacity.get(*week)) else { continue };
            self.excess -= over(*load, *capacity);
            *load += sign * ms;
            self.excess += over(*load, *capacity);
        }
    }
}

/// Levels the work of one crew: `fixed` and `capacity` in milliseconds for each week. Never worse than as it stands.
#[must_use]
pub fn level(capacity: &[i64], fixed: &[i64], movables: &[Movable]) -> Levelled {
    let stands: Vec<usize> = movables.iter().map(|movable| movable.stands).collect();
    let mut weeks = Weeks { load: fixed.to_vec(), capacity, excess: excess(fixed, capacity) };
    for (movable, at) in movables.iter().zip(&stands) {
        weeks.put(&movable.places[*at], 1);
    }
    let free: Vec<usize> = (0..movables.len()).filter(|at| movables[*at].places.len() > 1).collect();
    let mut chosen = stands;
    improve(&mut weeks, movables, &free, &mut chosen);
    if free.len() > SEARCHED {
        // Without excess and without a move nothing can be better.
        let is_proven = weeks.excess == 0 && moves(movables, &chosen) == 0;
        return Levelled { chosen, is_proven };
    }
    let best = (weeks.excess, moves(movables, &chosen));
    for at in &free {
        weeks.put(&movables[*at].places[chosen[*at]], -1);
    }
    let mut search =
        Search { weeks, movables, free: heaviest_first(movables, free), best, found: chosen.clone(), steps: 0 };
    search.from(0, 0, &mut chosen);
    Levelled { is_proven: search.steps <= MOST_STEPS, chosen: search.found }
}

fn moves(movables: &[Movable], chosen: &[usize]) -> usize {
    movables.iter().zip(chosen).filter(|(movable, at)| movable.stands != **at).count()
}

fn heaviest_first(movables: &[Movable], mut free: Vec<usize>) -> Vec<usize> {
    let weight = |at: &usize| movables[*at].places[0].load.iter().map(|(_, ms)| *ms).sum::<i64>();
    free.sort_by_key(|at| std::cmp::Reverse(weight(at)));
    free
}

/// Moves one by one where that helps, and two at once where one alone does not; until nothing helps.
fn improve(weeks: &mut Weeks, movables: &[Movable], free: &[usize], chosen: &mut [usize]) {
    for _ in 0..MOST_ROUNDS {
        let mut helped = false;
        for at in free {
            helped |= best_place(weeks, movables, *at, chosen);
        }
        if !helped && !exchange(weeks, movables, free, chosen) {
            return;
        }
    }
}

/// Gives one the best of its places; whether that helped.
fn best_place(weeks: &mut Weeks, movables: &[Movable], at: usize, chosen: &mut [usize]) -> bool {
    let (movable, now) = (&movables[at], chosen[at]);
    let moved = |place: usize| usize::from(place != movable.stands);
    let as_it_was = (weeks.excess, moved(now));
    weeks.put(&movable.places[now], -1);
    let tried = (0..movable.places.len()).map(|place| {
        weeks.put(&movable.places[place], 1);
        let excess = weeks.excess;
        weeks.put(&movable.places[place], -1);
        ((excess, moved(place)), place)
    });
    let best = tried.min().filter(|(best, _)| *best < as_it_was);
    let place = best.map_or(now, |(_, place)| place);
    weeks.put(&movable.places[place], 1);
    chosen[at] = place;
    best.is_some()
}

/// Pairs looked at in one go.
const MOST_PAIRS: usize = 20_000;

/// The first two whose moving together helps; whether there are any.
fn exchange(weeks: &mut Weeks, movables: &[Movable], free: &[usize], chosen: &mut [usize]) -> bool {
    if weeks.excess == 0 {
        return false;
    }
    let in_excess = |at: usize, weeks: &Weeks| {
        movables[at].places[chosen[at]].load.iter().any(|(week, _)| {
            weeks.load.get(*week).zip(weeks.capacity.get(*week)).is_some_and(|(load, capacity)| load > capacity)
        })
    };
    let heavy: Vec<usize> = free.iter().copied().filter(|at| in_excess(*at, weeks)).collect();
    let pairs = heavy.iter().flat_map(|first| free.iter().map(move |second| (*first, *second)));
    for (first, second) in pairs.filter(|(first, second)| first != second).take(MOST_PAIRS) {
        let (was_first, was_second, excess) = (chosen[first], chosen[second], weeks.excess);
        for place in (0..movables[first].places.len()).filter(|place| *place != was_first) {
            weeks.put(&movables[first].places[was_first], -1);
            weeks.put(&movables[first].places[place], 1);
            chosen[first] = place;
            best_place(weeks, movables, second, chosen);
            if weeks.excess < excess {
                return true;
            }
            for (at, was) in [(first, was_first), (second, was_second)] {
                weeks.put(&movables[at].places[chosen[at]], -1);
                weeks.put(&movables[at].places[was], 1);
                chosen[at] = was;
            }
        }
    }
    false
}

/// A search through all places. Work that is put on only adds to the excess, so a branch that is no better already is left.
struct Search<'a> {
    weeks: Weeks<'a>,
    movables: &'a [Movable],
    free: Vec<usize>,
    best: (i128, usize),
    found: Vec<usize>,
    steps: u32,
}

impl Search<'_> {
    fn from(&mut self, depth: usize, moved: usize, chosen: &mut Vec<usize>) {
        self.steps += 1;
        if self.steps > MOST_STEPS || (self.weeks.excess, moved) >= self.best {
            return;
        }
        let Some(at) = self.free.get(depth).copied() else {
            self.best = (self.weeks.excess, moved);
            self.found.clone_from(chosen);
            return;
        };
        let movables = self.movables;
        let movable = &movables[at];
        for (place, load) in movable.places.iter().enumerate() {
            self.weeks.put(load, 1);
            chosen[at] = place;
            self.from(depth + 1, moved + usize::from(place != movable.stands), chosen);
            self.weeks.put(load, -1);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const WEEKS: usize = 6;

    fn put(fixed: &[i64], movables: &[Movable], chosen: &[usize]) -> Vec<i64> {
        let mut load = fixed.to_vec();
        for (movable, at) in movables.iter().zip(chosen) {
            for (week, ms) in &movable.places[*at].load {
                load[*week] += ms;
            }
        }
        load
    }

    /// As it stands, and a week earlier and later.
    fn around(week: usize, ms: i64) -> Movable {
        let place = |shift: i64| Place { shift, load: vec![((week as i64 + shift) as usize, ms)] };
        Movable { stands: 1, places: [-1, 0, 1].map(place).to_vec() }
    }

    #[test]
    fn a_peak_goes_where_there_is_room() {
        // 40 hours a week; 30 + 30 fall into the same one, beside 20 the week after.
        let (capacity, fixed) = ([40; 4], [0, 0, 20, 0]);
        let movables = [around(1, 30), around(1, 30)];
        let levelled = level(&capacity, &fixed, &movables);
        let load = put(&fixed, &movables, &levelled.chosen);
        assert_eq!(excess(&load, &capacity), 0);
        assert_eq!((moves(&movables, &levelled.chosen), levelled.is_proven), (1, true));
    }

    #[test]
    fn what_fits_is_left_alone() {
        let movables = [around(1, 30), around(2, 40)];
        let levelled = level(&[40; 4], &[0; 4], &movables);
        assert_eq!(levelled, Levelled { chosen: vec![1, 1], is_proven: true });
    }

    fn movable() -> impl Strategy<Value = Movable> {
        let place = prop::collection::vec((0..WEEKS, 1i64..30), 1..3);
        prop::collection::vec(place, 1..4).prop_flat_map(|loads| {
            let places: Vec<Place> = (0..).zip(loads).map(|(shift, load)| Place { shift, load }).collect();
            (0..places.len()).prop_map(move |stands| Movable { stands, places: places.clone() })
        })
    }

    /// Everything there is, one after another.
    fn by_trying_all(capacity: &[i64], fixed: &[i64], movables: &[Movable]) -> (i128, usize) {
        let mut chosen = vec![0; movables.len()];
        let mut best = (i128::MAX, usize::MAX);
        loop {
            best = best.min((excess(&put(fixed, movables, &chosen), capacity), moves(movables, &chosen)));
            let next = (0..movables.len()).find(|at| {
                chosen[*at] = (chosen[*at] + 1) % movables[*at].places.len();
                chosen[*at] != 0
            });
            if next.is_none() {
                return best;
            }
        }
    }

    fn weeks() -> impl Strategy<Value = (Vec<i64>, Vec<i64>)> {
        (prop::collection::vec(0i64..40, WEEKS), prop::collection::vec(0i64..40, WEEKS))
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(96))]
        #[test]
        fn up_to_twelve_are_as_good_as_trying_everything(
            (capacity, fixed) in weeks(),
            movables in prop::collection::vec(movable(), 0..=9),
        ) {
            let levelled = level(&capacity, &fixed, &movables);
            let load = put(&fixed, &movables, &levelled.chosen);
            prop_assert!(levelled.is_proven);
            let came_to = (excess(&load, &capacity), moves(&movables, &levelled.chosen));
            prop_assert_eq!(came_to, by_trying_all(&capacity, &fixed, &movables));
        }

        #[test]
        fn it_is_never_worse_than_as_it_stood(
            (capacity, fixed) in weeks(),
            movables in prop::collection::vec(movable(), 13..60),
        ) {
            let levelled = level(&capacity, &fixed, &movables);
            let stood: Vec<usize> = movables.iter().map(|movable| movable.stands).collect();
            let was = excess(&put(&fixed, &movables, &stood), &capacity);
            let is = excess(&put(&fixed, &movables, &levelled.chosen), &capacity);
            prop_assert!(is <= was);
        }
    }

    #[test]
    fn twelve_are_as_good_as_trying_everything() {
        // 3^12 ways. Loads that do not fit evenly, so that moving the heaviest first is not enough.
        let hours = [31, 29, 23, 19, 17, 13, 11, 7, 5, 3, 2, 37];
        let movables: Vec<Movable> = hours.iter().enumerate().map(|(at, hours)| around(1 + at % 4, *hours)).collect();
        let (capacity, fixed) = ([30, 35, 31, 33, 28, 36], [0, 9, 0, 4, 0, 0]);
        let levelled = level(&capacity, &fixed, &movables);
        let load = put(&fixed, &movables, &levelled.chosen);
        let came_to = (excess(&load, &capacity), moves(&movables, &levelled.chosen));
        assert_eq!(came_to, by_trying_all(&capacity, &fixed, &movables));
        assert!(levelled.is_proven);
    }
}
