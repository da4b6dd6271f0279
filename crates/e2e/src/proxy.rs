//! A network that can be lost: stands between a browser and a server.

use anyhow::{Context, Result};
use tokio::{
    io::copy_bidirectional,
    net::{TcpListener, TcpStream},
    sync::watch,
};

/// A way to a server that can be cut, and mended.
#[derive(Debug)]
pub struct Proxy {
    /// Where it is asked.
    pub address: String,
    is_cut: watch::Sender<bool>,
    leads_to: watch::Sender<String>,
}

impl Proxy {
    /// A way to the server at an address such as `http://127.0.0.1:8420`. It ends with the runtime it began in.
    ///
    /// # Errors
    /// The system's own.
    pub async fn to(address: &str) -> Result<Self> {
        let (leads_to, led) = watch::channel(host(address)?);
        let listener = TcpListener::bind("127.0.0.1:0").await?;
        let own = format!("http://{}", listener.local_addr()?);
        let (is_cut, listens) = watch::channel(false);
        tokio::spawn(async move {
            while let Ok((client, _)) = listener.accept().await {
                tokio::spawn(carry(client, led.borrow().clone(), listens.clone()));
            }
        });
        Ok(Self { address: own, is_cut, leads_to })
    }

    /// From now on it leads to another server.
    ///
    /// # Errors
    /// For an address that is none of a server without TLS.
    pub fn lead_to(&self, address: &str) -> Result<()> {
        self.leads_to.send_replace(host(address)?);
        Ok(())
    }

    /// Nothing comes through any more: what is under way breaks off.
    pub fn cut(&self) {
        self.is_cut.send_replace(true);
    }

    /// It does again.
    pub fn mend(&self) {
        self.is_cut.send_replace(false);
    }
}

fn host(address: &str) -> Result<String> {
    Ok(address.strip_prefix("http://").context("a server without TLS")?.to_owned())
}

/// Carries one connection until either end closes it, or it is cut.
async fn carry(mut client: TcpStream, server: String, mut cut: watch::Receiver<bool>) {
    if *cut.borrow() {
        return;
    }
    let Ok(mut server) = TcpStream::connect(server).await else { return };
    tokio::select! {
        _ = copy_bidirectional(&mut client, &mut server) => {}
        _ = cut.wait_for(|is_cut| *is_cut) => {}
    }
}
