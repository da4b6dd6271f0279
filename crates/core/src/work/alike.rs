//! *Already raised?* Which open work may be about the same thing as words that are being typed.

use crate::ground::time::{DAY, Instant};
use serde::Serialize;
use std::cmp::Reverse;

/// Open work is looked for among what was raised so long ago at the most.
pub const RAISED_WITHIN_MS: i64 = 90 * DAY;

/// So much of the words has to be found for two to be alike. Own rule.
const ALIKE: f64 = 1.0 / 3.0;

/// Words of fewer letters say nothing.
const SHORTEST_WORD: usize = 3;

/// How the asset of some work stands to the one that is asked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Kin {
    /// It is the same.
    Same,
    /// It is the parent, or one above that.
    Parent,
    /// It is a part of it.
    Part,
}

/// Work that is compared with what is typed.
#[derive(Debug, Clone, Copy)]
pub struct Other<'a> {
    pub title: &'a str,
    /// The name of its problem, where one was found.
    pub problem: Option<&'a str>,
    /// Levels between the two assets.
    pub steps: u32,
    pub raised_at: Instant,
}

/// How alike some work is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Likeness {
    /// Its place among those that were compared.
    pub place: usize,
    /// How much of what is typed its title says, 0 to 1: words that many others have count less.
    pub share: f64,
    /// What is typed names its problem.
    pub names_problem: bool,
}

impl Likeness {
    /// Whether it is probably about the same.
    #[must_use]
    pub fn is_alike(&self) -> bool {
        self.names_problem || self.share >= ALIKE
    }
}

/// Puts work in the order in which it may be about the same: what has the problem that the words name, then by how much of the
/// words it says, then the nearest asset, then the newest. Without words by nearness alone.
///
/// A word weighs by how few of the others have it: ln(1 + n / (1 + others)), the inverse document frequency of information
/// retrieval (K. Spärck Jones, 1972; from memory). Two words are the same where one begins with the other, or three quarters of the
/// shorter are the same letters: endings differ. Own rule.
#[must_use]
pub fn most_alike(words: &str, others: &[Other]) -> Vec<Likeness> {
    let typed = words_of(words);
    let titles: Vec<Vec<String>> = others.iter().map(|other| words_of(other.title)).collect();
    let have = |word: &str| titles.iter().filter(|title| has(title, word)).count() as f64;
    let n = others.len() as f64;
    let weights: Vec<f64> = typed.iter().map(|word| (n / (1.0 + have(word))).ln_1p()).collect();
    let all: f64 = weights.iter().sum();
    let likeness = |(place, other): (usize, &Other)| {
        let said = typed.iter().zip(&weights).filter(|(word, _)| has(&titles[place], word));
        let said: f64 = said.map(|(_, weight)| weight).sum();
        let problem = other.problem.map(words_of).unwrap_or_default();
        Likeness {
            place,
            share: if all > 0.0 { said / all } else { 0.0 },
            names_problem: !problem.is_empty() && problem.iter().all(|word| has(&typed, word)),
        }
    };
    let mut found: Vec<Likeness> = others.iter().enumerate().map(likeness).collect();
    found.sort_by(|one, two| {
        let nearness = |one: &Likeness| (others[one.place].steps, Reverse(others[one.place].raised_at));
        two.names_problem
            .cmp(&one.names_problem)
            .then(two.share.total_cmp(&one.share))
            .then_with(|| nearness(one).cmp(&nearness(two)))
    });
    found
}

/// The words of a text that say something, each once.
fn words_of(text: &str) -> Vec<String> {
    let mut words: Vec<String> = Vec::new();
    for word in text.split(|letter: char| !letter.is_alphanumeric()) {
        let word = word.to_lowercase();
        if word.chars().count() >= SHORTEST_WORD && !words.contains(&word) {
            words.push(word);
        }
    }
    words
}

fn has(words: &[String], word: &str) -> bool {
    words.iter().any(|other| is_same(other, word))
}

/// Whether two words are the same but for their endings.
fn is_same(one: &str, two: &str) -> bool {
    let common = one.chars().zip(two.chars()).take_while(|(one, two)| one == two).count();
    let shorter = one.chars().count().min(two.chars().count());
    common == shorter || (common > SHORTEST_WORD && 4 * common >= 3 * shorter)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    fn other(title: &str) -> Other<'_> {
        Other { title, problem: None, steps: 0, raised_at: Instant::from_ms(0) }
    }

    #[rstest]
    #[case("bearing", "bearings", true)]
    #[case("leak", "leaking", true)]
    #[case("noise", "noisy", true)]
    #[case("bear", "bearing", true)]
    #[case("gearbox", "gear", true)]
    #[case("pump", "pulley", false)]
    #[case("oil", "oiler", true)]
    #[case("coil", "oil", false)]
    fn words_are_the_same_but_for_their_endings(#[case] one: &str, #[case] two: &str, #[case] same: bool) {
        assert_eq!((is_same(one, two), is_same(two, one)), (same, same));
    }

    /// By hand: of three titles two have a word like *gearbox*, one has one like *hot*, none has one like *smells*. So the words
    /// weigh ln(1 + 3/3), ln(1 + 3/2) and ln(1 + 3/1).
    #[test]
    fn a_word_that_few_have_says_more() {
        let others = ["Gearbox runs hot", "Gearboxes: change oil", "Paint the rail"].map(other);
        let found = most_alike("The gearbox is hot, smells", &others);
        let (gearbox, hot, smells, the) = (2.0f64.ln(), 2.5f64.ln(), 4.0f64.ln(), 2.5f64.ln());
        let all = gearbox + hot + smells + the;
        let shares: Vec<(usize, f64)> = found.iter().map(|one| (one.place, one.share)).collect();
        let expected = [(0, (gearbox + hot) / all), (2, the / all), (1, gearbox / all)];
        for ((place, share), (expected_place, expected_share)) in shares.iter().zip(expected) {
            assert_eq!(*place, expected_place, "{shares:?}");
            assert!((share - expected_share).abs() < 1e-12, "{shares:?}");
        }
    }

    #[test]
    fn the_problem_that_the_words_name_comes_first() {
        let mut others = ["Seal of the pump leaks oil", "See to the seal"].map(other);
        others[1].problem = Some("Leakage, external");
        let found = most_alike("seal leaks oil", &others);
        assert_eq!((found[0].place, found[0].names_problem), (0, false), "external is not said: {found:?}");
        let found = most_alike("external leak", &others);
        assert_eq!((found[0].place, found[0].names_problem, found[0].is_alike()), (1, true, true), "{found:?}");
    }

    #[test]
    fn without_words_the_nearest_and_then_the_newest_come_first() {
        let at = |steps, at| Other { steps, raised_at: Instant::from_ms(at), ..other("Look at it") };
        let found = most_alike(" a ", &[at(1, 9), at(0, 1), at(0, 5)]);
        assert_eq!(found.iter().map(|one| one.place).collect::<Vec<_>>(), [2, 1, 0]);
        assert!(found.iter().all(|one| !one.is_alike()));
    }

    proptest! {
        /// A title is alike to itself, whatever else there is; and each is told once.
        #[test]
        fn nothing_is_more_alike_than_the_same_words(titles in prop::collection::vec("[a-z]{3,6}( [a-z]{3,6}){0,3}", 1..12), which in 0usize..12) {
            let which = which % titles.len();
            let others: Vec<Other> = titles.iter().map(|title| other(title)).collect();
            let found = most_alike(&titles[which], &others);
            let own = found.iter().find(|one| one.place == which).unwrap();
            prop_assert!((own.share - 1.0).abs() < 1e-9 && own.is_alike());
            prop_assert!(found.iter().all(|one| (0.0..=1.0 + 1e-9).contains(&one.share)));
            let mut places: Vec<usize> = found.iter().map(|one| one.place).collect();
            places.sort_unstable();
            prop_assert_eq!(places, (0..titles.len()).collect::<Vec<_>>());
        }
    }
}
