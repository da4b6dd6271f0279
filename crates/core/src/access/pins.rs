//! Short numbers by which people change places at a device that several of them share. A number alone is little: it counts only at
//! a device that an administrator set up for that, for a few tries, and opens nothing that asks for a password.

use super::{refusal::Refusal, roles::Role};

/// Digits at least, and at most (NIST SP 800-63B asks six of a number that is chosen at random or checked online; recalled).
const DIGITS: std::ops::RangeInclusive<usize> = 6..=10;

/// Wrong tries in a row after which a number counts no more, until its person sets another: of a million numbers that is one
/// chance in a hundred thousand.
pub const MOST_WRONG: u32 = 10;

/// Whether somebody of that role may have one: whoever lets others in, or is a program, may not.
#[must_use]
pub fn may_have(role: Role) -> bool {
    !matches!(role, Role::Administrator | Role::Gateway)
}

/// Whether a number may be somebody's.
///
/// # Errors
/// [`Refusal::Field`] for `pin`, saying why not.
pub fn check(pin: &str, role: Role) -> Result<(), Refusal> {
    if !may_have(role) {
        return Err(Refusal::field(
            "pin",
            format!("is nothing for who is {}: they sign in with a password", role.word()),
        ));
    }
    if !pin.bytes().all(|byte| byte.is_ascii_digit()) || !DIGITS.contains(&pin.len()) {
        return Err(Refusal::field("pin", format!("takes {} to {} digits", DIGITS.start(), DIGITS.end())));
    }
    if is_easy(pin.as_bytes()) {
        return Err(Refusal::field("pin", "is among the first that anybody would try"));
    }
    Ok(())
}

/// Digits that go on as they begin (equal, rising, falling), or begin anew after two or three.
fn is_easy(digits: &[u8]) -> bool {
    let steps: Vec<i8> = digits.windows(2).map(|two| (two[1] as i8 - two[0] as i8).rem_euclid(10)).collect();
    let is_even = matches!(steps.first(), Some(0 | 1 | 9)) && steps.iter().all(|step| Some(step) == steps.first());
    let repeats = |every: usize| digits.iter().zip(&digits[every..]).all(|(one, later)| one == later);
    is_even || repeats(2) || repeats(3)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::good("518203", Role::Technician, "")]
    #[case::long("5182037461", Role::Planner, "")]
    #[case::short("51820", Role::Technician, "pin: takes 6 to 10 digits")]
    #[case::letters("51820a", Role::Technician, "pin: takes 6 to 10 digits")]
    #[case::other_digits("٥١٨٢٠٣", Role::Technician, "pin: takes 6 to 10 digits")]
    #[case::equal("000000", Role::Technician, "pin: is among the first that anybody would try")]
    #[case::rising("345678", Role::Technician, "pin: is among the first that anybody would try")]
    #[case::rising_over_nine("789012", Role::Technician, "pin: is among the first that anybody would try")]
    #[case::falling("987654", Role::Technician, "pin: is among the first that anybody would try")]
    #[case::pairs("121212", Role::Technician, "pin: is among the first that anybody would try")]
    #[case::halves("482482", Role::Technician, "pin: is among the first that anybody would try")]
    #[case::an_administrator(
        "518203",
        Role::Administrator,
        "pin: is nothing for who is administrator: they sign in with a password"
    )]
    fn a_number_may_be_somebodys(#[case] pin: &str, #[case] role: Role, #[case] said: &str) {
        assert_eq!(check(pin, role).map_or_else(|refusal| refusal.to_string(), |()| String::new()), said);
    }
}
