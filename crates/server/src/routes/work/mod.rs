//! Work orders, the same fault once, what is reported on them and bought for them; upkeep, which recurs.

pub mod again;
pub mod attachments;
pub mod bought;
pub mod checks;
pub mod decisions;
pub mod doing;
pub mod feeds;
pub mod job_sheets;
pub mod orders;
pub mod several;
pub mod shift;
pub mod upkeep;
pub mod week;

use crate::AppState;
use utoipa_axum::{router::OpenApiRouter, routes};

/// Its routes.
pub fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(orders::list, orders::raise))
        .routes(routes!(orders::one, orders::change))
        .routes(routes!(orders::set_state))
        .routes(routes!(orders::add_entry))
        .routes(routes!(orders::reverse_entry))
        .routes(routes!(orders::add_downtime))
        .routes(routes!(orders::put_failure))
        .routes(routes!(orders::remove_failure))
        .routes(routes!(again::already_raised))
        .routes(routes!(again::join))
        .routes(routes!(again::take_back))
        .routes(routes!(again::link))
        .routes(routes!(again::unlink))
        .routes(routes!(attachments::send))
        .routes(routes!(attachments::attach))
        .routes(routes!(attachments::one, attachments::take_away))
        .routes(routes!(attachments::put_back))
        .routes(routes!(doing::time))
        .routes(routes!(doing::hours))
        .routes(routes!(doing::part))
        .routes(routes!(doing::parts))
        .routes(routes!(doing::comment))
        .routes(routes!(doing::take_comment_away))
        .routes(routes!(doing::put_comment_back))
        .routes(routes!(several::several))
        .routes(routes!(several::put_back))
        .routes(routes!(shift::line))
        .routes(routes!(shift::taken))
        .routes(routes!(week::board))
        .routes(routes!(week::place))
        .routes(routes!(upkeep::year))
        .routes(routes!(upkeep::level))
        .routes(routes!(upkeep::move_cycles))
        .routes(routes!(upkeep::plan))
        .routes(routes!(upkeep::raise_now))
        .routes(routes!(feeds::list, feeds::renew, feeds::take_away))
        .routes(routes!(feeds::read))
        .routes(routes!(decisions::open))
        .routes(routes!(decisions::answer, decisions::withdraw))
        .routes(routes!(job_sheets::list))
        .routes(routes!(job_sheets::one, job_sheets::put))
        .routes(routes!(job_sheets::tick))
        .routes(routes!(job_sheets::map))
        .routes(routes!(checks::list))
        .routes(routes!(checks::attempt))
        .routes(routes!(checks::questions))
        .routes(routes!(checks::picture))
        .routes(routes!(checks::sheet, checks::put))
        .routes(routes!(checks::add))
        .routes(routes!(checks::one, checks::leave_out))
        .routes(routes!(checks::answer))
        .routes(routes!(checks::finish))
        .routes(routes!(checks::file))
        .routes(routes!(bought::items))
        .routes(routes!(bought::suppliers))
}
