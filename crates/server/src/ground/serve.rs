//! Connections: how many, and how long one may say nothing.

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

/// Answers until it is asked to end, and then what is under way for a moment.
pub async fn serve(listener: TcpListener, app: Router, head_within: Duration, end: impl Future<Output = ()>) {
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
        let app = app.clone().map_request(move |request: Request<Incoming>| {
            let mut request = request.map(Body::new);
            request.extensions_mut().insert(Peer(peer.ip()));
            request
        });
        let service = TowerToHyperService::new(app);
        let connection = ending.watch(builder.serve_connection(TokioIo::new(stream), service));
        tokio::spawn(async move {
            let _taken = taken;
            // A client that goes, or says nothing for too long, is no fault of ours.
            connection.await.ok();
        });
    }
    // Browsers that listen for what happens would keep the server up for ever.
    tokio::time::timeout(LAST_ANSWERS, ending.shutdown()).await.ok();
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
