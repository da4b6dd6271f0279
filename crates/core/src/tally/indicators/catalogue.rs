//! All indicators there are, in the order they are offered. Long because it is one table, of which a line more is an indicator more.

use super::{Course, Definition, Direction, Indicator, Look, RollUp, RowUnit, Unit};
use crate::{
    codes::failures::Effect,
    ground::bands::AGE_BANDS,
    plant::downtime::DowntimeKind,
    tally::{
        formula::{Cells, Formula, Over, Pass, Scale, Term, cost, cost_of, count, down, ratio, time},
        measures::{Alarmed, Completed, DownCost, Failed, Open, Restored, Scheduled, Upkept},
    },
    work::{WorkKind, entries::EntryKind},
};

/// Kinds of work by their places, as measures by kind have them.
const ALL_KINDS: [usize; 6] = [0, 1, 2, 3, 4, 5];
const IMMEDIATE: [usize; 1] = [WorkKind::CorrectiveImmediate as usize];
/// Condition-based, predetermined and inspection. Source: EN 13306 (preventive maintenance).
const PREVENTIVE: [usize; 3] =
    [WorkKind::ConditionBased as usize, WorkKind::Predetermined as usize, WorkKind::Inspection as usize];

/// The cells of hours of the work that was completed.
const fn hours_of<const N: usize>(kinds: [usize; N]) -> [usize; N] {
    let (mut cells, mut place) = (kinds, 0);
    while place < N {
        cells[place] += Completed::HOURS;
        place += 1;
    }
    cells
}

const ALL_HOURS: [usize; 6] = hours_of(ALL_KINDS);
const PREVENTIVE_CELLS: [usize; 3] = hours_of(PREVENTIVE);

const RAISED: Cells = count(Pass::Raised, &ALL_KINDS, "Work raised");
const PREVENTIVE_RAISED: Cells = count(Pass::Raised, &PREVENTIVE, "Preventive work raised");
const COMPLETED: Cells = count(Pass::Completed, &ALL_KINDS, "Work completed");
const PREVENTIVE_DONE: Cells = count(Pass::Completed, &PREVENTIVE, "Preventive work completed");
const COMPLETED_HOURS: Cells = time(Pass::Completed, &ALL_HOURS, "Hours of work completed");
const PREVENTIVE_HOURS: Cells = time(Pass::Completed, &PREVENTIVE_CELLS, "Hours of preventive work");
const ESTIMATED: Cells = time(Pass::Completed, &[Completed::ESTIMATED_MS], "Estimated");
const ACTUAL: Cells = time(Pass::Completed, &[Completed::ACTUAL_MS], "Spent");
const CORRECTIVE: Cells = count(Pass::Completed, &[Completed::CORRECTIVE], "Corrective work completed");
const CODED: Cells = count(Pass::Completed, &[Completed::CODED], "Of it coded in full");
const CYCLE: Cells = time(Pass::Completed, &[Completed::CYCLE_MS], "From raised to done");
const HOURS: Cells = time(Pass::Worked, &ALL_KINDS, "Hours of labour");
const IMMEDIATE_HOURS: Cells = time(Pass::Worked, &IMMEDIATE, "On corrective immediate work");
const OPEN: Cells = count(Pass::Open, &[Open::COUNT], "Open work orders");
const OPEN_HOURS: Cells = time(Pass::Open, &[Open::MS], "Hours still to do");
const READY_HOURS: Cells = time(Pass::Open, &[Open::READY_MS], "Hours of ready work");
const UNESTIMATED: Cells = count(Pass::Open, &[Open::UNESTIMATED], "Open work orders without an estimate");
const PAST: Cells = count(Pass::Open, &[Open::PAST], "Past their window");
const OVER: Cells = count(Pass::Open, &[Open::OVER], "Over a limit of their state");
const WAITED: Cells = time(Pass::Open, &[Open::AGE_MS], "Since raised");
const CAPACITY: Cells = time(Pass::Capacity, &[0], "Weekly capacity");
const IN_SCHEDULE: Cells = count(Pass::Scheduled, &[Scheduled::ALL], "In the schedules of their weeks");
const SCHEDULE_KEPT: Cells = count(Pass::Scheduled, &[Scheduled::DONE], "Done in their weeks");
const CYCLES_DUE: Cells = count(Pass::Upkept, &[Upkept::DUE], "Cycles due");
const CYCLES_KEPT: Cells = count(Pass::Upkept, &[Upkept::IN_TIME], "Done in time");
const ALARMS: Cells = count(Pass::Alarmed, &[Alarmed::COUNT], "Alarms");
const LED_TO_WORK: Cells = count(Pass::Alarmed, &[Alarmed::LED], "Led to work");
const JUDGED: Cells = count(Pass::Alarmed, &[Alarmed::JUDGED], "Judged");
const NOTHING_WRONG: Cells = count(Pass::Alarmed, &[Alarmed::NOTHING], "Nothing wrong");
const FAILED: Cells = count(Pass::Failed, &[Effect::Critical as usize, Effect::Degraded as usize], "Failures");
const INCIPIENT: Cells = count(Pass::Failed, &[Effect::Incipient as usize], "Incipient failures");
const REPEATS: Cells = count(Pass::Failed, &[Failed::REPEAT], "Repeat failures");
const WITH_PROBLEM: Cells = count(Pass::Failed, &[Failed::CODED], "Reports with a problem");
const AS_OTHER: Cells = count(Pass::Failed, &[Failed::OTHER], "Coded as other or unknown");
const DOWNING: Cells = count(Pass::Downing, &[0], "Critical failures");
const RESTORED: Cells = count(Pass::Restored, &[Restored::COUNT], "Critical failures with downtime");
const RESTORING: Cells = time(Pass::Restored, &[Restored::MS], "Time to restore");
const REPAIRING: Cells = time(Pass::Restored, &[Restored::UNDER_WAY_MS], "Work under way within it");
const SLOWED: Cells = time(Pass::Slowed, &[0], "Lost while slowed");

const FAILURES: Formula = Formula::Apart { sum: FAILED, apart: INCIPIENT };

const DOWNTIME_COST: Formula = Formula::Hourly {
    whole: Cells { pass: Pass::DownCost, cells: &[DownCost::WHOLE], unit: RowUnit::Money, name: "Unplanned downtime" },
    rest: DownCost::REST,
};

const AVAILABILITY: Formula = ratio(
    &[
        (1, Term::Required),
        (-1, Term::Down(DowntimeKind::Unplanned)),
        (-1, Term::Down(DowntimeKind::Planned)),
        (-1, Term::Down(DowntimeKind::External)),
    ],
    &[(1, Term::Required), (-1, Term::Down(DowntimeKind::External))],
);

const MTBF: Formula =
    Formula::Ratio { over: &[(1, Term::Operating)], by: &[(1, Term::Of(DOWNING))], scale: Scale::Plain, bounded: true };

const MTTR: Formula = ratio(&[(1, Term::Of(RESTORING))], &[(1, Term::Of(RESTORED))]);

const MEAN_REPAIR_TIME: Formula = ratio(&[(1, Term::Of(REPAIRING))], &[(1, Term::Of(RESTORED))]);

const CODED_SHARE: Formula = ratio(&[(1, Term::Of(CODED))], &[(1, Term::Of(CORRECTIVE))]);

const OTHER_SHARE: Formula = ratio(&[(1, Term::Of(AS_OTHER))], &[(1, Term::Of(WITH_PROBLEM))]);

const COST_OF_VALUE: Formula = Formula::Ratio {
    over: &[(1, cost_of(None, Over::Period))],
    by: &[(1, Term::Replacement)],
    scale: Scale::Yearly,
    bounded: false,
};

const ALARMS_PER_DAY: Formula =
    Formula::Ratio { over: &[(1, Term::Of(ALARMS))], by: &[(1, Term::Passed)], scale: Scale::Daily, bounded: false };

const AGE: Formula = Formula::Spread { of: WAITED, bands: &AGE_BANDS };

const CYCLE_TIME: Formula = Formula::Spread { of: CYCLE, bands: &[] };

/// Where an indicator is shown without being chosen.
const fn looks(id: Indicator) -> &'static [Look] {
    use Indicator as I;
    match id {
        I::CostTotal | I::CostYtd | I::CostLife => &[Look::Figures, Look::Cost],
        I::CostPerHour | I::CostOfValue | I::Budget | I::BudgetUsed => &[Look::Cost],
        I::UnplannedDowntime | I::Availability => &[Look::Figures, Look::Downtime],
        I::PlannedDowntime | I::ExternalDowntime | I::SlowedDowntime | I::DowntimeCost => &[Look::Downtime],
        I::Failures | I::Mtbf | I::Mttr | I::OpenWork | I::OpenHours => &[Look::Figures],
        I::PreventiveCountShare
        | I::PreventiveHoursShare
        | I::PreventiveRaisedShare
        | I::ReactiveShare
        | I::EstimateRatio
        | I::ScheduleCompliance
        | I::PlanCompliance
        | I::CycleTime => &[Look::Mix],
        _ => &[],
    }
}

macro_rules! define {
    (
        $id:ident, $name:literal, $short:literal, $unit:ident, $direction:ident, $roll_up:ident, $course:ident, $made:expr,
        $formula:expr, $source:expr
    ) => {
        Definition {
            id: Indicator::$id,
            name: $name,
            short: $short,
            unit: Unit::$unit,
            formula: $formula,
            source: $source,
            direction: Direction::$direction,
            roll_up: RollUp::$roll_up,
            course: Course::$course,
            looks: looks(Indicator::$id),
            made: $made,
        }
    };
}

/// All indicators there are, in the order they are offered.
pub const CATALOGUE: &[Definition] = &[
    define!(
        CostTotal,
        "Cost",
        "Cost",
        Money,
        Lower,
        Additive,
        Flow,
        cost(None, Over::Period),
        "Labour, material, service and tool entries dated in the period; settled and provisional apart",
        "common practice"
    ),
    define!(
        CostLabour,
        "Labour",
        "Labour",
        Money,
        Lower,
        Additive,
        Flow,
        cost(Some(EntryKind::Labour), Over::Period),
        "Labour entries dated in the period",
        "common practice"
    ),
    define!(
        CostMaterial,
        "Material",
        "Material",
        Money,
        Lower,
        Additive,
        Flow,
        cost(Some(EntryKind::Material), Over::Period),
        "Material entries dated in the period",
        "common practice"
    ),
    define!(
        CostService,
        "Services",
        "Services",
        Money,
        Lower,
        Additive,
        Flow,
        cost(Some(EntryKind::Service), Over::Period),
        "Service entries dated in the period",
        "common practice"
    ),
    define!(
        CostTool,
        "Tools",
        "Tools",
        Money,
        Lower,
        Additive,
        Flow,
        cost(Some(EntryKind::Tool), Over::Period),
        "Tool entries dated in the period",
        "common practice"
    ),
    define!(
        CostYtd,
        "Cost, year to date",
        "Year to date",
        Money,
        Lower,
        Additive,
        Stock,
        cost(None, Over::Year),
        "Entries dated from the start of the fiscal year in which the period ends, up to the period's end",
        "common practice"
    ),
    define!(
        CostLife,
        "Cost, life",
        "Life",
        Money,
        Lower,
        Additive,
        Stock,
        cost(None, Over::Life),
        "Entries dated from the beginning up to the period's end",
        "common practice"
    ),
    define!(
        CostPerHour,
        "Cost per operating hour",
        "Per hour",
        MoneyPerHour,
        Lower,
        Ratio,
        Flow,
        ratio(&[(1, cost_of(None, Over::Period))], &[(1, Term::Operating)]),
        "Cost ÷ operating time; operating time by a running-hours counter where the asset has one, else required \
         time − all downtime",
        "EN 15341, E group (from memory)"
    ),
    define!(
        CostOfValue,
        "Cost of replacement value",
        "Of value",
        Share,
        Lower,
        Ratio,
        Flow,
        COST_OF_VALUE,
        "Cost, as much as a year of it would be ÷ what the asset would cost anew at the period's end: its own \
         value where one is set, else the sum of its children's",
        "SMRP 1.5; EN 15341 E1 (from memory)"
    ),
    define!(
        Budget,
        "Budget of the year",
        "Budget",
        Money,
        Neither,
        Set,
        Stock,
        Formula::Sum(Term::Budget),
        "What may be spent in the fiscal year in which the period ends: its own budget where one is set, else the \
         sum of its children's",
        "common practice"
    ),
    define!(
        BudgetUsed,
        "Budget used",
        "Used",
        Share,
        Lower,
        Ratio,
        Stock,
        ratio(&[(1, cost_of(None, Over::Year))], &[(1, Term::Budget)]),
        "Cost, year to date ÷ budget of the year",
        "common practice"
    ),
    define!(
        UnplannedDowntime,
        "Unplanned downtime",
        "Unplanned",
        Hours,
        Lower,
        Union,
        Flow,
        down(DowntimeKind::Unplanned),
        "Hours of required time in which the asset was down unplanned, by its own downtime or by what puts it \
         down; overlaps once",
        "EN 13306 (terms); common practice"
    ),
    define!(
        PlannedDowntime,
        "Planned downtime",
        "Planned",
        Hours,
        Lower,
        Union,
        Flow,
        down(DowntimeKind::Planned),
        "Hours of required time in which the asset was down as planned and not unplanned at once",
        "EN 13306 (terms); common practice"
    ),
    define!(
        ExternalDowntime,
        "External downtime",
        "External",
        Hours,
        Neither,
        Union,
        Flow,
        down(DowntimeKind::External),
        "Hours of required time in which only weather, power or a third party kept the asset down",
        "EN 13306 (terms); common practice"
    ),
    define!(
        SlowedDowntime,
        "Lost while slowed",
        "Slowed",
        Hours,
        Lower,
        Additive,
        Flow,
        Formula::Sum(Term::Of(SLOWED)),
        "Hours of required time in which assets ran slower, by the share that they could not do; stops are not in \
         it",
        "common practice"
    ),
    define!(
        DowntimeCost,
        "Cost of downtime",
        "Downtime cost",
        Money,
        Lower,
        Additive,
        Flow,
        DOWNTIME_COST,
        "Each counted interval of unplanned downtime × what an hour costs of the highest asset that it puts down, \
         on the asset that was down first",
        "common practice"
    ),
    define!(
        Availability,
        "Availability",
        "Available",
        Share,
        Higher,
        Ratio,
        Flow,
        AVAILABILITY,
        "(required − external − unplanned − planned downtime) ÷ (required − external downtime)",
        "EN 15341:2007, T group; ISO 14224 (from memory)"
    ),
    define!(
        Failures,
        "Failures",
        "Failures",
        Count,
        Lower,
        Additive,
        Flow,
        FAILURES,
        "Failure reports, critical and degraded, with failed-at in the period; incipient ones apart, and those of \
         dropped work left out",
        "EN 13306; ISO 14224 (from memory)"
    ),
    define!(
        Mtbf,
        "MTBF",
        "MTBF",
        Hours,
        Higher,
        Ratio,
        Flow,
        MTBF,
        "Operating time ÷ critical failures of the asset, and of what put it down; operating time by a \
         running-hours counter where the asset has one, else required time − all downtime",
        "EN 13306; SMRP 3.5.1 (from memory)"
    ),
    define!(
        Mttr,
        "MTTR",
        "MTTR",
        Hours,
        Lower,
        Ratio,
        Flow,
        MTTR,
        "Time to restore of the critical failures that had downtime, waiting included and not cut to calendars ÷ \
         their number",
        "IEC 60050-192; ISO 14224 (from memory)"
    ),
    define!(
        MeanRepairTime,
        "Mean repair time",
        "Repair",
        Hours,
        Lower,
        Ratio,
        Flow,
        MEAN_REPAIR_TIME,
        "Of the same failures: hours in which their work was under way within that downtime ÷ their number",
        "SMRP 3.5.2 (active repair; from memory)"
    ),
    define!(
        RepeatFailures,
        "Repeat failures",
        "Repeats",
        Count,
        Lower,
        Additive,
        Flow,
        Formula::Sum(Term::Of(REPEATS)),
        "Failures in the period, critical and degraded, of the same problem on the same asset as one at most 90 \
         days before",
        "common practice"
    ),
    define!(
        CodedShare,
        "Coded in full",
        "Coded",
        Share,
        Higher,
        Ratio,
        Flow,
        CODED_SHARE,
        "Corrective work completed in the period that has a failure with problem, cause and remedy ÷ corrective \
         work completed",
        "ISO 14224 (data quality; from memory)"
    ),
    define!(
        OtherShare,
        "Coded as other",
        "Other",
        Share,
        Lower,
        Ratio,
        Flow,
        OTHER_SHARE,
        "Failure reports in the period with a code that says other or unknown ÷ those with a problem",
        "ISO 14224 (data quality; from memory)"
    ),
    define!(
        OpenWork,
        "Open work",
        "Open work",
        Count,
        Lower,
        Additive,
        Stock,
        Formula::Sum(Term::Of(OPEN)),
        "Work orders neither done, returned, closed nor dropped at the end of the period",
        "EN 13306 (backlog)"
    ),
    define!(
        OpenHours,
        "Open hours",
        "To do",
        Hours,
        Lower,
        Additive,
        Stock,
        Formula::Sum(Term::Of(OPEN_HOURS)),
        "Estimated minus spent hours of open work at the end of the period, never below 0 for one order",
        "EN 13306 (backlog)"
    ),
    define!(
        OpenWithoutEstimate,
        "Open work without an estimate",
        "No estimate",
        Count,
        Lower,
        Additive,
        Stock,
        Formula::Sum(Term::Of(UNESTIMATED)),
        "Work orders open at the end of the period whose hours nobody estimated: the open hours leave them out",
        "EN 13306 (backlog)"
    ),
    define!(
        PastWindow,
        "Past its window",
        "Past window",
        Count,
        Lower,
        Additive,
        Stock,
        Formula::Sum(Term::Of(PAST)),
        "Open work whose window had ended before the end of the period",
        "common practice"
    ),
    define!(
        PastWindowShare,
        "Share past its window",
        "Past, share",
        Share,
        Lower,
        Ratio,
        Stock,
        ratio(&[(1, Term::Of(PAST))], &[(1, Term::Of(OPEN))]),
        "Open work past its window ÷ open work",
        "common practice"
    ),
    define!(
        OverStateLimit,
        "Over its state's limit",
        "Over limit",
        Count,
        Lower,
        Additive,
        Stock,
        Formula::Sum(Term::Of(OVER)),
        "Open work that has stood in its state for longer than a limit of that state lets it, by the limits as \
         they are set now",
        "common practice"
    ),
    define!(
        BacklogWeeks,
        "Backlog in weeks",
        "Weeks",
        Weeks,
        Lower,
        Ratio,
        Stock,
        ratio(&[(1, Term::Of(OPEN_HOURS))], &[(1, Term::Of(CAPACITY))]),
        "Open hours ÷ weekly capacity: of each crew the hours it works in a week, by its share of the hours that \
         it spent here in the twelve months before",
        "SMRP 5.4.8 (from memory)"
    ),
    define!(
        ReadyWeeks,
        "Ready work in weeks",
        "Ready weeks",
        Weeks,
        Neither,
        Ratio,
        Stock,
        ratio(&[(1, Term::Of(READY_HOURS))], &[(1, Term::Of(CAPACITY))]),
        "Open hours of work that is ready or scheduled ÷ the same weekly capacity",
        "SMRP 5.4.9 (from memory)"
    ),
    define!(
        Age,
        "Age of open work",
        "Age",
        Days,
        Lower,
        Distribution,
        Stock,
        AGE,
        "Days since open work was raised, at the end of the period: the median, the ninth of ten, and how much \
         lies in each band",
        "SMRP 5.4.6 (from memory)"
    ),
    define!(
        Raised,
        "Raised",
        "Raised",
        Count,
        Neither,
        Additive,
        Flow,
        Formula::Sum(Term::Of(RAISED)),
        "Work orders raised in the period",
        "common practice"
    ),
    define!(
        Completed,
        "Completed",
        "Completed",
        Count,
        Neither,
        Additive,
        Flow,
        Formula::Sum(Term::Of(COMPLETED)),
        "Work orders that were done for the first time in the period",
        "common practice"
    ),
    define!(
        CycleTime,
        "Cycle time",
        "Cycle",
        Days,
        Lower,
        Distribution,
        Flow,
        CYCLE_TIME,
        "Days from raised to first done of work completed in the period: the median, and the ninth of ten",
        "SMRP 5.4.7 (from memory)"
    ),
    define!(
        PreventiveCountShare,
        "Preventive share of completed",
        "Preventive",
        Share,
        Higher,
        Ratio,
        Flow,
        ratio(&[(1, Term::Of(PREVENTIVE_DONE))], &[(1, Term::Of(COMPLETED))]),
        "Predetermined, inspection and condition-based work completed ÷ all work completed, by number",
        "EN 13306 (kinds); common practice"
    ),
    define!(
        PreventiveHoursShare,
        "Preventive share of hours",
        "Prev. hours",
        Share,
        Higher,
        Ratio,
        Flow,
        ratio(&[(1, Term::Of(PREVENTIVE_HOURS))], &[(1, Term::Of(COMPLETED_HOURS))]),
        "The same by the hours spent on that work",
        "EN 15341, O group (from memory)"
    ),
    define!(
        PreventiveRaisedShare,
        "Preventive share of raised",
        "Prev. raised",
        Share,
        Higher,
        Ratio,
        Flow,
        ratio(&[(1, Term::Of(PREVENTIVE_RAISED))], &[(1, Term::Of(RAISED))]),
        "Predetermined, inspection and condition-based work raised in the period ÷ all work raised",
        "common practice"
    ),
    define!(
        ReactiveShare,
        "Reactive share of hours",
        "Reactive",
        Share,
        Lower,
        Ratio,
        Flow,
        ratio(&[(1, Term::Of(IMMEDIATE_HOURS))], &[(1, Term::Of(HOURS))]),
        "Hours of labour on corrective immediate work ÷ all hours of labour, by their dates",
        "SMRP 5.4.1 (from memory)"
    ),
    define!(
        PlanCompliance,
        "Plan compliance",
        "Plans kept",
        Share,
        Higher,
        Ratio,
        Flow,
        ratio(&[(1, Term::Of(CYCLES_KEPT))], &[(1, Term::Of(CYCLES_DUE))]),
        "Upkeep cycles of the period done by their due date before any move, and a tenth of their interval ÷ cycles due, missed \
         ones included; what still has time to be done is not in it",
        "SMRP 5.4.14 (from memory)"
    ),
    define!(
        ScheduleCompliance,
        "Schedule compliance",
        "Schedule kept",
        Share,
        Higher,
        Ratio,
        Flow,
        ratio(&[(1, Term::Of(SCHEDULE_KEPT))], &[(1, Term::Of(IN_SCHEDULE))]),
        "Of the weeks that began in the period and are over: work of each week's schedule, as it stood when the \
         week began, that was done in that week ÷ all of it",
        "SMRP 5.4.4 (from memory)"
    ),
    define!(
        EstimateRatio,
        "Actual to estimated hours",
        "Of estimate",
        Factor,
        Neither,
        Ratio,
        Flow,
        ratio(&[(1, Term::Of(ACTUAL))], &[(1, Term::Of(ESTIMATED))]),
        "Hours spent on work completed in the period that had an estimate ÷ its estimated hours",
        "common practice"
    ),
    define!(
        Alarms,
        "Alarms",
        "Alarms",
        Count,
        Lower,
        Additive,
        Flow,
        Formula::Sum(Term::Of(ALARMS)),
        "Alarms that began in the period; those of rungs that only record, and of silent meters, are not in it",
        "IEC 62682 (from memory)"
    ),
    define!(
        AlarmsPerDay,
        "Alarms per day",
        "Per day",
        PerDay,
        Lower,
        Ratio,
        Flow,
        ALARMS_PER_DAY,
        "Alarms that began in the period ÷ days of it that have passed",
        "IEC 62682 (from memory)"
    ),
    define!(
        NuisanceShare,
        "Nothing wrong",
        "Nothing wrong",
        Share,
        Lower,
        Ratio,
        Flow,
        ratio(&[(1, Term::Of(NOTHING_WRONG))], &[(1, Term::Of(JUDGED))]),
        "Alarms of the period whose work found nothing wrong ÷ those whose work was judged",
        "IEC 62682 (nuisance; from memory)"
    ),
    define!(
        WorkFromAlarms,
        "Alarms that led to work",
        "To work",
        Share,
        Neither,
        Ratio,
        Flow,
        ratio(&[(1, Term::Of(LED_TO_WORK))], &[(1, Term::Of(ALARMS))]),
        "Alarms of the period that raised or joined work ÷ alarms",
        "common practice"
    ),
];
