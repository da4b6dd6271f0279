//! The program: one file with the web inside.

mod cli;

use std::process::ExitCode;

fn main() -> ExitCode {
    match cli::done() {
        Ok(()) => ExitCode::SUCCESS,
        // A sentence with its causes, never a trace: what the user can do something about is in the words.
        Err(error) => {
            eprintln!("fair-tally: {error:#}");
            ExitCode::FAILURE
        }
    }
}
