//! Secrets that are given out once, and the hashes that are kept of them.

use base64::{Engine, prelude::BASE64_URL_SAFE_NO_PAD};
use sha2::{Digest, Sha256};

/// Bytes of a secret that nobody types: 256 bits are beyond guessing, so that a fast hash hides them.
const BYTES: usize = 32;

/// Letters that are told apart in any hand: those of Crockford's base 32.
const ALPHABET: &[u8; 32] = b"0123456789ABCDEFGHJKMNPQRSTVWXYZ";

/// Letters of a code that is typed: 60 bits, which last for the hour that it works, with the wait after wrong ones.
const CODE_LETTERS: usize = 12;

/// What a key begins with, so that one that was left lying about is known for what it is.
const KEY_MARK: &str = "fairtally_";

/// The machine's own randomness; there is no going on without it.
fn random<const N: usize>() -> [u8; N] {
    let mut bytes = [0; N];
    getrandom::fill(&mut bytes).unwrap_or_else(|error| panic!("the system gives no random numbers: {error}"));
    bytes
}

/// A secret of a session.
#[must_use]
pub fn session() -> String {
    BASE64_URL_SAFE_NO_PAD.encode(random::<BYTES>())
}

/// A key of a gateway or a script.
#[must_use]
pub fn key() -> String {
    format!("{KEY_MARK}{}", session())
}

/// A code that somebody reads out to somebody else: three groups of four letters.
#[must_use]
pub fn code() -> String {
    let letters = random::<CODE_LETTERS>().map(|byte| char::from(ALPHABET[usize::from(byte) % ALPHABET.len()]));
    let groups = letters.chunks(4).map(|group| group.iter().collect::<String>());
    groups.collect::<Vec<_>>().join("-")
}

/// A code as it was meant, however it was typed.
#[must_use]
pub fn as_meant(typed: &str) -> String {
    let letters = typed.chars().filter(|c| c.is_alphanumeric()).map(|c| match c.to_ascii_uppercase() {
        'O' => '0',
        'I' | 'L' => '1',
        other => other,
    });
    letters.collect()
}

/// What is kept of a secret.
#[must_use]
pub fn hash(secret: &str) -> Vec<u8> {
    Sha256::digest(secret.as_bytes()).to_vec()
}

/// What is kept of a code.
#[must_use]
pub fn code_hash(typed: &str) -> Vec<u8> {
    hash(&as_meant(typed))
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeSet;

    #[test]
    fn a_code_is_known_however_it_is_typed() {
        let given = "0A1B-CDEF-GH10";
        for typed in ["0a1b-cdef-gh10", "OAIB CDEF GHLO", " 0A1BCDEFGH10 "] {
            assert_eq!(code_hash(typed), code_hash(given), "{typed}");
        }
        assert_ne!(code_hash("0A1B-CDEF-GH11"), code_hash(given));
    }

    #[test]
    fn secrets_are_long_and_none_comes_twice() {
        let made = (0..1_000).map(|_| (code(), session(), key())).collect::<Vec<_>>();
        assert_eq!(made.iter().map(|(code, ..)| code).collect::<BTreeSet<_>>().len(), 1_000);
        for (code, session, key) in &made {
            assert_eq!((code.len(), session.len(), key.len()), (14, 43, 53));
            assert_eq!(code.replace('-', ""), as_meant(code), "no letter is taken for another one");
        }
        // Every letter turns up: 12 000 draws of 32.
        let letters = made.iter().flat_map(|(code, ..)| code.bytes()).collect::<BTreeSet<_>>();
        assert_eq!(letters.len(), 33);
    }
}
