//! Work that blocks, on threads that may.

use super::error::ApiError;

/// Does it on a thread that may block, and waits for it.
pub(crate) async fn blocking<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, ApiError> + Send + 'static,
) -> Result<T, ApiError> {
    match tokio::task::spawn_blocking(work).await {
        Ok(answer) => answer,
        // The handler's own panic: the connection is closed and the log says where.
        Err(panicked) => std::panic::resume_unwind(panicked.into_panic()),
    }
}
