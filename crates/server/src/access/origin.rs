//! From where a request comes: by the name of the host it asks, and by the page it is sent from.

use crate::ground::error::ApiError;
use axum::http::{HeaderMap, Method, StatusCode, header, uri::Authority};
use std::collections::BTreeSet;

/// Names by which this server may be asked. A page of another site that lets its own name point here is refused by them.
#[derive(Debug, Clone)]
pub struct Hosts(BTreeSet<String>);

impl Default for Hosts {
    /// Those of the machine itself.
    fn default() -> Self {
        Self(["localhost", "127.0.0.1", "[::1]"].map(String::from).into())
    }
}

impl Hosts {
    /// With other names beside those of the machine itself.
    #[must_use]
    pub fn with(names: impl IntoIterator<Item = String>) -> Self {
        let mut hosts = Self::default();
        hosts.0.extend(names.into_iter().map(|name| name.to_ascii_lowercase()));
        hosts
    }

    fn knows(&self, authority: &str) -> bool {
        let parsed = authority.parse::<Authority>().ok();
        let plain = parsed.filter(|authority| !authority.as_str().contains('@'));
        plain.is_some_and(|authority| self.0.contains(&authority.host().to_ascii_lowercase()))
    }
}

fn text<'a>(headers: &'a HeaderMap, name: &str) -> Option<&'a str> {
    headers.get(name).map(|value| value.to_str().unwrap_or("unreadable"))
}

/// # Errors
/// 421 for a host that is none of ours, 403 for a write from another site's page.
pub fn check(hosts: &Hosts, method: &Method, headers: &HeaderMap) -> Result<(), ApiError> {
    let host = text(headers, header::HOST.as_str()).unwrap_or_default();
    if !hosts.knows(host) {
        let reason = format!("this server is not {host:?}; start it with --host to let it be asked by that name");
        return Err(ApiError::request(StatusCode::MISDIRECTED_REQUEST, reason));
    }
    if matches!(*method, Method::GET | Method::HEAD) {
        return Ok(());
    }
    let foreign = || ApiError::request(StatusCode::FORBIDDEN, "pages of other sites may not write here".into());
    // Browsers say from where a request is sent (Fetch Metadata); programs say nothing.
    if text(headers, "sec-fetch-site").is_some_and(|site| !matches!(site, "same-origin" | "none")) {
        return Err(foreign());
    }
    match text(headers, header::ORIGIN.as_str()) {
        None => Ok(()),
        Some(origin) if origin.split_once("://").is_some_and(|(_, from)| from.eq_ignore_ascii_case(host)) => Ok(()),
        Some(_) => Err(foreign()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::own("POST", "127.0.0.1:8420", &[("origin", "http://127.0.0.1:8420"), ("sec-fetch-site", "same-origin")], None)]
    #[case::a_program("POST", "localhost:8420", &[], None)]
    #[case::another_name("GET", "evil.example:8420", &[], Some(421))]
    #[case::user_before_the_name("GET", "localhost@evil.example", &[], Some(421))]
    #[case::nothing("GET", "", &[], Some(421))]
    #[case::other_site("POST", "127.0.0.1:8420", &[("origin", "http://evil.example")], Some(403))]
    #[case::other_port("POST", "127.0.0.1:8420", &[("origin", "http://127.0.0.1:9999")], Some(403))]
    #[case::hidden("POST", "127.0.0.1:8420", &[("origin", "null")], Some(403))]
    #[case::cross_site("DELETE", "127.0.0.1:8420", &[("sec-fetch-site", "cross-site")], Some(403))]
    #[case::same_site("POST", "127.0.0.1:8420", &[("sec-fetch-site", "same-site")], Some(403))]
    #[case::a_link_from_elsewhere("GET", "127.0.0.1:8420", &[("sec-fetch-site", "cross-site")], None)]
    fn only_from_here(
        #[case] method: Method,
        #[case] host: &str,
        #[case] given: &[(&'static str, &str)],
        #[case] refused: Option<u16>,
    ) {
        let mut headers = HeaderMap::new();
        headers.insert(header::HOST, host.parse().unwrap());
        given.iter().for_each(|(name, value)| drop(headers.insert(*name, value.parse().unwrap())));
        let status = check(&Hosts::default(), &method, &headers).err().map(|error| error.status().as_u16());
        assert_eq!(status, refused);
    }

    #[test]
    fn other_names_are_named_at_the_start() {
        let hosts = Hosts::with(["Tally.Plant.example".into()]);
        assert!(hosts.knows("tally.plant.example:80") && hosts.knows("[::1]:8420") && !hosts.knows("plant.example"));
    }
}
