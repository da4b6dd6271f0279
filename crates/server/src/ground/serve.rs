//! Connections: how many, and how long one may say nothing.

use super::tls::{Tls, TlsError};
use axum::{Router, body::Body, http::Request};
use hyper::{body::Incoming, server::conn::http1};
use hyper_util::{
    rt::{TokioIo, TokioTimer},
    server::graceful::GracefulShutdown,
    service::TowerToHyperService,
};
use std::{future::Future, net::IpAddr, sync::Arc, time::Duration};
use tokio::{net::TcpListener, sync::Semaphore};
use tower::ServiceExt;

/// Connections at one time; the next ones wait.
pub const MOST_CONNECTIONS: usize = 1_024;

/// How long a head may take to arrive, and how long a connection may stand idle.
pub const HEAD_WITHIN: Duration = Duration::from_secs(15);

/// How long answers under way may still take when the server is asked to end.
const LAST_ANSWERS: Duration = Duration::from_secs(2);

/// Between two attempts when the machine gives no more connections.
const PAUSE: Duration = Duration::from_millis(100);

/// The other end of the connection that a request came by.
#[derive(Debug, Clone, Copy)]
pub struct Peer(pub IpAddr);

/// How connections are taken.
#[derive(Debug, Default)]
pub struct Taking {
    /// Over TLS, where there is a certificate.
    pub tls: Option<Arc<Tls>>,
    /// From these alone, and from the machine itself; from everywhere without any.
    pub only_from: Vec<IpAddr>,
}

impl Taking {
    fn takes(&self, peer: IpAddr) -> bool {
        let peer = peer.to_canonical();
        self.only_from.is_empty() || peer.is_loopback() || self.only_from.contains(&peer)
    }
}

/// Answers until it is asked to end, and then what is under way for a moment.
///
/// # Errors
/// [`TlsError`] for a certificate that can't be used.
pub async fn serve(
    listener: TcpListener,
    app: Router,
    taking: Taking,
    head_within: Duration,
    end: impl Future<Output = ()>,
) -> Result<(), TlsError> {
    let acceptor = taking.tls.as_ref().map(Tls::acceptor).transpose()?;
    let following = taking.tls.clone().map(|tls| tokio::spawn(tls.follow()));
    let room = Arc::new(Semaphore::new(MOST_CONNECTIONS));
    let mut builder = http1::Builder::new();
    builder.timer(TokioTimer::new()).header_read_timeout(head_within);
    let ending = GracefulShutdown::new();
    let mut end = std::pin::pin!(end);
    loop {
        // The semaphore is never closed.
        let Ok(taken) = room.clone().acquire_owned().await else { break };
        let accepted = tokio::select! {
            accepted = listener.accept() => accepted,
            () = &mut end => break,
        };
        let (stream, peer) = match accepted {
            Ok(accepted) => accepted,
            Err(error) => {
                tracing::warn!(%error, "a connection was not taken");
                tokio::time::sleep(PAUSE).await;
                continue;
            }
        };
        if !taking.takes(peer.ip()) {
            continue;
        }
        let app = app.clone().map_request(move |request: Request<Incoming>| {
            let mut request = request.map(Body::new);
            request.extensions_mut().insert(Peer(peer.ip()));
            request
        });
        let service = TowerToHyperService::new(app);
        let (builder, watcher, acceptor) = (builder.clone(), ending.watcher(), acceptor.clone());
        tokio::spawn(async move {
            let _taken = taken;
            // A client that goes, or says nothing for too long, is no fault of ours.
            match acceptor {
                None => drop(watcher.watch(builder.serve_connection(TokioIo::new(stream), service)).await),
                Some(acceptor) => {
                    let greeted = tokio::time::timeout(head_within, acceptor.accept(stream)).await;
                    if let Ok(Ok(stream)) = greeted {
                        drop(watcher.watch(builder.serve_connection(TokioIo::new(stream), service)).await);
                    }
                }
            }
        });
    }
    if let Some(following) = following {
        following.abort();
    }
    // Browsers that listen for what happens would keep the server up for ever.
    tokio::time::timeout(LAST_ANSWERS, ending.shutdown()).await.ok();
    Ok(())
}

/// Waits until the process is asked to end, by the terminal or by the system.
pub async fn asked_to_end() {
    let terminal = async { tokio::signal::ctrl_c().await.unwrap_or_default() };
    #[cfg(unix)]
    {
        use tokio::signal::unix::{SignalKind, signal};
        let Ok(mut system) = signal(SignalKind::terminate()) else { return terminal.await };
        tokio::select! {
            () = terminal => {}
            _ = system.recv() => {}
        }
    }
    #[cfg(not(unix))]
    terminal.await;
}
