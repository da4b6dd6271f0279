//! The [`door`]: from where a request comes ([`origin`]), who makes it ([`signed`]), whether they may ([`rights`]) and reach so far
//! ([`places`]), whether it was made before ([`again`]), how much one account takes at one time ([`shares`]), and what
//! of all that is taken down ([`refusals`]). How people sign
//! in: [`secrets`] that are given out, passwords as they are kept ([`hashing`]), [`passkeys`], and how guessing is slowed
//! ([`guesses`]).

pub mod again;
pub mod door;
pub mod guesses;
pub mod hashing;
pub mod origin;
pub mod passkeys;
pub mod places;
pub mod refusals;
pub mod rights;
pub mod secrets;
pub mod shares;
pub mod signed;

/// How this server lets people in.
#[derive(Debug)]
pub struct Access {
    /// Whether one press signs in as anybody: the demo's people have no passwords.
    pub is_demo: bool,
    /// Whether browsers reach it over TLS.
    pub over_tls: bool,
    /// On which port browsers reach it without: cookies of one machine go to all its ports.
    pub port: u16,
    /// Proxies that are believed from where a request comes.
    pub proxies: Vec<std::net::IpAddr>,
    pub hashing: hashing::Hashing,
    pub guesses: guesses::Guesses,
    pub passkeys: passkeys::Passkeys,
    pub listening: shares::Shares,
    pub asking: shares::Shares,
    pub refusals: refusals::Refusals,
}

impl Default for Access {
    /// On the machine itself, with people who sign in.
    fn default() -> Self {
        Self {
            is_demo: false,
            over_tls: false,
            port: 0,
            proxies: Vec::new(),
            hashing: hashing::Hashing::default(),
            guesses: guesses::Guesses::default(),
            passkeys: passkeys::Passkeys::default(),
            listening: shares::Shares::of_listening(),
            asking: shares::Shares::of_asking(),
            refusals: refusals::Refusals::default(),
        }
    }
}

impl Access {
    /// The name of the session's cookie. With `__Host-` it comes from this host alone and over TLS alone (RFC 6265bis).
    #[must_use]
    pub fn cookie(&self) -> String {
        self.named("fair-tally")
    }

    /// The name of the cookie that a shared device holds.
    #[must_use]
    pub fn device_cookie(&self) -> String {
        self.named("fair-tally-device")
    }

    fn named(&self, name: &str) -> String {
        if self.over_tls { format!("__Host-{name}") } else { format!("{name}-{}", self.port) }
    }
}
