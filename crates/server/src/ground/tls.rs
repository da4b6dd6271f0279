//! TLS: a certificate with its key, read anew when the files change.

use rustls::{
    ServerConfig,
    crypto::{CryptoProvider, ring},
    pki_types::{CertificateDer, PrivateKeyDer, pem::PemObject},
    server::{ClientHello, ResolvesServerCert},
    sign::CertifiedKey,
};
use std::{
    path::{Path, PathBuf},
    sync::{Arc, PoisonError, RwLock},
    time::{Duration, SystemTime},
};
use tokio_rustls::TlsAcceptor;

/// How often the files are looked at.
const LOOK_EVERY: Duration = Duration::from_secs(5);

/// Lets everything here and in libraries encrypt by the same means. To say it twice is as good as once.
pub fn provide() {
    ring::default_provider().install_default().ok();
}

/// Why a certificate can't be used.
#[derive(Debug, thiserror::Error)]
pub enum TlsError {
    #[error("{path}: {source}")]
    Unreadable { path: String, source: rustls::pki_types::pem::Error },
    #[error("{path} holds no certificate")]
    Empty { path: String },
    #[error("the certificate can't be used: {0}")]
    Unusable(#[from] rustls::Error),
}

/// A certificate and its key, as the files say.
#[derive(Debug)]
pub struct Tls {
    certificate: PathBuf,
    key: PathBuf,
    current: RwLock<Arc<CertifiedKey>>,
}

fn unreadable(path: &Path) -> impl Fn(rustls::pki_types::pem::Error) -> TlsError {
    let path = path.display().to_string();
    move |source| TlsError::Unreadable { path: path.clone(), source }
}

fn read(certificate: &Path, key: &Path, provider: &CryptoProvider) -> Result<CertifiedKey, TlsError> {
    let chain = CertificateDer::pem_file_iter(certificate).map_err(unreadable(certificate))?;
    let chain = chain.collect::<Result<Vec<_>, _>>().map_err(unreadable(certificate))?;
    if chain.is_empty() {
        return Err(TlsError::Empty { path: certificate.display().to_string() });
    }
    let key = PrivateKeyDer::from_pem_file(key).map_err(unreadable(key))?;
    Ok(CertifiedKey::from_der(chain, key, provider)?)
}

fn changed_at(path: &Path) -> Option<SystemTime> {
    std::fs::metadata(path).and_then(|file| file.modified()).ok()
}

impl Tls {
    /// Reads a chain of certificates (PEM) and the key of the first of them.
    ///
    /// # Errors
    /// [`TlsError`].
    pub fn open(certificate: &Path, key: &Path) -> Result<Arc<Self>, TlsError> {
        let current = RwLock::new(Arc::new(read(certificate, key, &ring::default_provider())?));
        Ok(Arc::new(Self { certificate: certificate.into(), key: key.into(), current }))
    }

    /// Takes connections with TLS 1.2 or 1.3.
    ///
    /// # Errors
    /// [`TlsError`].
    pub fn acceptor(self: &Arc<Self>) -> Result<TlsAcceptor, TlsError> {
        let config = ServerConfig::builder_with_provider(Arc::new(ring::default_provider()))
            .with_safe_default_protocol_versions()?
            .with_no_client_auth()
            .with_cert_resolver(self.clone());
        Ok(TlsAcceptor::from(Arc::new(config)))
    }

    fn changed_at(&self) -> (Option<SystemTime>, Option<SystemTime>) {
        (changed_at(&self.certificate), changed_at(&self.key))
    }

    /// Reads the files anew when they change, for as long as it is waited for. Files that can't be used, or are half written,
    /// leave things as they are until they change again.
    pub async fn follow(self: Arc<Self>) {
        let mut seen = self.changed_at();
        loop {
            tokio::time::sleep(LOOK_EVERY).await;
            let now = self.changed_at();
            if now == seen {
                continue;
            }
            seen = now;
            match read(&self.certificate, &self.key, &ring::default_provider()) {
                Ok(read) => {
                    *self.current.write().unwrap_or_else(PoisonError::into_inner) = Arc::new(read);
                    tracing::info!(certificate = %self.certificate.display(), "the certificate was read anew");
                }
                Err(error) => tracing::error!(%error, "the new certificate is not used; the old one still is"),
            }
        }
    }
}

impl ResolvesServerCert for Tls {
    fn resolve(&self, _: ClientHello<'_>) -> Option<Arc<CertifiedKey>> {
        Some(self.current.read().unwrap_or_else(PoisonError::into_inner).clone())
    }
}
