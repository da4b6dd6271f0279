//! What the server sends by itself: to open addresses, and of private ones to those that are allowed. A name is looked up and
//! judged when it is sent to, so that one that leads elsewhere by then is refused too.

use ipnet::IpNet;
use reqwest::dns::{Addrs, Name, Resolve, Resolving};
use std::{
    net::{IpAddr, SocketAddr},
    sync::Arc,
    time::Duration,
};
use tally_core::outside::networks::may_reach;

/// How long a receiver may take.
const WITHIN: Duration = Duration::from_secs(10);

/// Private networks that may be sent to.
#[derive(Debug, Clone, Default)]
pub struct Allowed(Arc<Vec<IpNet>>);

impl Allowed {
    /// Those networks.
    #[must_use]
    pub fn new(networks: Vec<IpNet>) -> Self {
        Self(Arc::new(networks))
    }

    fn check(&self, address: IpAddr) -> Result<(), String> {
        if may_reach(address, &self.0) {
            return Ok(());
        }
        Err(format!(
            "{address} is on this machine or in a private network; start the server with --webhooks-to to allow it"
        ))
    }

    /// Refuses an address of the web that names a machine which may not be sent to. A name is judged when it is looked up.
    ///
    /// # Errors
    /// Why not.
    pub fn check_url(&self, url: &str) -> Result<(), String> {
        let url = url.parse::<reqwest::Url>().map_err(|error| error.to_string())?;
        let host = url.host_str().unwrap_or_default().trim_matches(['[', ']']);
        host.parse::<IpAddr>().map_or(Ok(()), |address| self.check(address))
    }
}

impl Resolve for Allowed {
    fn resolve(&self, name: Name) -> Resolving {
        let allowed = self.clone();
        Box::pin(async move {
            let found = tokio::net::lookup_host((name.as_str(), 0)).await?.collect::<Vec<_>>();
            let refused = found.iter().find_map(|address| allowed.check(address.ip()).err());
            let may: Vec<SocketAddr> = found.into_iter().filter(|one| allowed.check(one.ip()).is_ok()).collect();
            match refused {
                Some(refused) if may.is_empty() => Err(refused.into()),
                _ => Ok(Box::new(may.into_iter()) as Addrs),
            }
        })
    }
}

/// What sends.
#[derive(Debug, Clone)]
pub struct Outgoing {
    allowed: Allowed,
    client: reqwest::Client,
}

impl Outgoing {
    /// Follows nobody elsewhere: a receiver that moved has to be given its new address.
    #[must_use]
    pub fn to(allowed: Allowed) -> Self {
        crate::ground::tls::provide();
        let client = reqwest::Client::builder().timeout(WITHIN).redirect(reqwest::redirect::Policy::none());
        // What stands in the environment of the server is no way around what is allowed.
        let client = client.dns_resolver(Arc::new(allowed.clone())).no_proxy();
        Self { allowed, client: client.build().unwrap_or_default() }
    }

    /// Which private networks it may send to.
    #[must_use]
    pub fn allowed(&self) -> &Allowed {
        &self.allowed
    }

    /// A message to an address, as long as it may be sent there.
    ///
    /// # Errors
    /// Why not.
    pub fn post(&self, url: &str) -> Result<reqwest::RequestBuilder, String> {
        self.allowed.check_url(url)?;
        Ok(self.client.post(url))
    }
}

/// An error with what caused it: the outermost says only that something was not sent.
pub fn told(error: &dyn std::error::Error) -> String {
    let mut innermost = error;
    while let Some(source) = innermost.source() {
        innermost = source;
    }
    innermost.to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test]
    async fn a_name_that_leads_to_this_machine_is_refused_when_it_is_looked_up() {
        let refused = Outgoing::to(Allowed::default()).post("http://localhost:9/").unwrap().send().await.unwrap_err();
        assert!(told(&refused).contains("is on this machine or in a private network"), "{}", told(&refused));
        let allowed = Outgoing::to(Allowed::new(vec!["127.0.0.0/8".parse().unwrap(), "::1/128".parse().unwrap()]));
        let tried = allowed.post("http://localhost:9/").unwrap().send().await.unwrap_err();
        assert!(!told(&tried).contains("private network"), "nobody listens there: {}", told(&tried));
    }

    #[test]
    fn an_address_by_number_is_judged_as_it_is_typed() {
        let outgoing = Outgoing::to(Allowed::new(vec!["10.20.0.0/16".parse().unwrap()]));
        for (url, may) in [
            ("http://10.20.1.1/x", true),
            ("http://10.21.1.1/x", false),
            ("http://127.0.0.1:8430/", false),
            ("http://[::1]/", false),
            // As a browser reads it, and whoever tries to be clever.
            ("http://2130706433/", false),
            ("http://0x7f.1/", false),
            ("https://receiver.example/", true),
        ] {
            assert_eq!(outgoing.post(url).is_ok(), may, "{url}");
        }
    }
}
