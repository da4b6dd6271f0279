//! Which passwords are taken (NIST SP 800-63B, 3.1.1: length, no composition rules, none that anybody would guess).

use super::refusal::Refusal;
use zxcvbn::{Score, zxcvbn};

/// Characters at least.
pub const SHORTEST: usize = 12;

/// Characters at most: enough for a sentence, and no work for who sends a book.
pub const LONGEST: usize = 200;

/// A name as short as that is no hint.
const SHORTEST_HINT: usize = 3;

/// Whether a password is taken, for a person of those names. Spaces and any letters may stand in it, as they are. What is among
/// the first million that anybody would try is not: common passwords, words, names of the person and of the program,
/// keyboard rows, dates, repetitions; how many come before it is estimated as by Wheeler, *zxcvbn: low-budget password strength
/// estimation*, USENIX Security 2016, from its lists, which ship.
///
/// # Errors
/// [`Refusal::Field`] for `field`.
pub fn check(field: &str, password: &str, names: &[&str]) -> Result<(), Refusal> {
    let length = password.chars().count();
    if length < SHORTEST {
        return Err(Refusal::field(field, format!("has {length} characters; it takes {SHORTEST} or more")));
    }
    if length > LONGEST {
        return Err(Refusal::field(field, format!("has {length} characters; at most {LONGEST} are taken")));
    }
    let own = ["fair", "tally", "fairtally", "maintenance", "reliability"];
    let parts = names.iter().flat_map(|name| name.split(|c: char| !c.is_alphanumeric()));
    let hints = own.into_iter().chain(names.iter().copied()).chain(parts);
    let hints = hints.filter(|hint| hint.chars().count() >= SHORTEST_HINT).collect::<Vec<_>>();
    if zxcvbn(password, &hints).score() <= Score::One {
        return Err(Refusal::field(
            field,
            "is among the first that anybody would try; take several words that have nothing to do with each other",
        ));
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::short("Tr0ub4dor&3", "has 11 characters; it takes 12 or more")]
    #[case::common("password1234", "is among the first")]
    #[case::common_twice("iloveyouiloveyou", "is among the first")]
    #[case::a_row_of_keys("qwertyuiop[]", "is among the first")]
    #[case::one_letter("aaaaaaaaaaaaaaaa", "is among the first")]
    #[case::counted_up("123456789012", "is among the first")]
    #[case::the_persons_name("enaferdinand", "is among the first")]
    #[case::the_programs_name("fairtally2026", "is among the first")]
    fn what_anybody_would_guess_is_refused(#[case] password: &str, #[case] reason: &str) {
        let refusal = check("password", password, &["ena", "Ena Ferdinand"]).unwrap_err();
        assert!(refusal.to_string().starts_with(&format!("password: {reason}")), "{refusal}");
    }

    #[rstest]
    #[case::words_alone("correct horse battery staple")]
    #[case::no_digits_no_signs("gravel ladder oyster")]
    #[case::other_letters("Überfluß an Gänseblümchen")]
    #[case::signs_only("✓→≥±µ∅∈∀∃≠≈⊕")]
    fn length_is_enough(#[case] password: &str) {
        assert_eq!(check("password", password, &["ena", "Ena Ferdinand"]), Ok(()));
    }

    #[test]
    fn a_book_is_refused_before_it_is_read() {
        let book = "gravel ladder oyster ".repeat(10_000);
        assert!(check("password", &book, &[]).unwrap_err().to_string().contains("at most 200 are taken"));
    }
}
