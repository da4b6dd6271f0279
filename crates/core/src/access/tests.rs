use super::{
    administrators::check_leaves_administrator,
    roles::{Action, Role, may},
    seen::{Topic, Whose, WorkSeen, may_see},
};
use crate::ground::ids::{CrewId, PersonId};
use rstest::rstest;

#[rstest]
#[case::gateway(Role::Gateway, &[Action::SendReadings])]
#[case::viewer(Role::Viewer, &[])]
#[case::requester(Role::Requester, &[Action::RaiseWork])]
#[case::manager(Role::Manager, &[Action::RaiseWork])]
#[case::technician(Role::Technician, &[Action::SendReadings, Action::AcknowledgeAlarms, Action::RaiseWork,
    Action::ReportOnWork, Action::ReportDowntime])]
#[case::administrator(Role::Administrator, &Action::ALL)]
fn a_role_may_do_just_this(#[case] role: Role, #[case] allowed: &[Action]) {
    for action in Action::ALL {
        assert_eq!(may(role, action).is_ok(), allowed.contains(&action), "{role:?} {action:?}");
    }
}

// rules.md §8.
#[rstest]
#[case::gateway(Role::Gateway, &[], WorkSeen::None)]
#[case::viewer(Role::Viewer, &[Topic::Plant, Topic::Meters, Topic::Codes, Topic::Figures], WorkSeen::None)]
#[case::requester(Role::Requester, &[Topic::Plant, Topic::Work, Topic::Codes], WorkSeen::Own)]
#[case::technician(Role::Technician, &[Topic::Plant, Topic::Meters, Topic::Work, Topic::Codes], WorkSeen::OwnCrew)]
#[case::administrator(Role::Administrator, &Topic::ALL, WorkSeen::All)]
fn a_role_sees_just_this(#[case] role: Role, #[case] seen: &[Topic], #[case] work: WorkSeen) {
    for topic in Topic::ALL {
        assert_eq!(may_see(role, topic).is_ok(), seen.contains(&topic), "{role:?} {topic:?}");
    }
    assert_eq!(role.sees_work(), work);
}

#[test]
fn a_technician_sees_the_crews_work_and_what_is_theirs_otherwise() {
    let (me, other) = (PersonId(1), PersonId(2));
    let (mine, theirs) = (Some(CrewId(7)), Some(CrewId(8)));
    let nobodys = Whose { crew: theirs, assignee: None, raised_by: other, asked: None, reported: false };
    let sees = |whose| WorkSeen::OwnCrew.includes(whose, me, mine);
    assert!(!sees(nobodys));
    for whose in [
        Whose { crew: mine, ..nobodys },
        Whose { crew: None, ..nobodys },
        Whose { assignee: Some(me), ..nobodys },
        Whose { raised_by: me, ..nobodys },
        Whose { asked: Some(me), ..nobodys },
        Whose { reported: true, ..nobodys },
    ] {
        assert!(sees(whose), "{whose:?}");
    }
    assert!(!WorkSeen::OwnCrew.includes(nobodys, me, None), "without a crew, no crew's work is theirs");
    assert!(WorkSeen::Own.includes(Whose { raised_by: me, ..nobodys }, me, None));
    assert!(WorkSeen::Own.includes(Whose { reported: true, ..nobodys }, me, None));
    assert!(!WorkSeen::Own.includes(Whose { crew: mine, ..nobodys }, me, mine));
}

#[test]
fn a_refusal_names_the_role_and_the_deed() {
    let refusal = may(Role::Technician, Action::SetLimits).unwrap_err();
    assert_eq!(refusal.to_string(), "a technician may not set limits");
}

#[test]
fn only_planner_and_administrator_touch_closed_cost() {
    let who: Vec<Role> = Role::ALL.into_iter().filter(|&r| may(r, Action::AdjustClosedWork).is_ok()).collect();
    assert_eq!(who, [Role::Planner, Role::Administrator]);
}

#[rstest]
#[case::stays(Role::Administrator, true, false, true)]
#[case::leaves(Role::Administrator, false, false, false)]
#[case::becomes_another(Role::Planner, true, false, false)]
#[case::is_not_the_last(Role::Planner, false, true, true)]
fn somebody_stays_who_may_change_people(
    #[case] role: Role,
    #[case] is_active: bool,
    #[case] others: bool,
    #[case] may: bool,
) {
    assert_eq!(check_leaves_administrator("role", role, is_active, others).is_ok(), may);
}

#[test]
fn who_neither_plans_nor_does_work_raises_it_briefly() {
    use crate::access::roles::raises_briefly;
    let all =
        [Role::Engineer, Role::Planner, Role::Technician, Role::Requester, Role::Manager, Role::Viewer, Role::Gateway];
    let brief: Vec<Role> = all.into_iter().filter(|role| raises_briefly(*role)).collect();
    assert_eq!(brief, [Role::Requester, Role::Manager]);
}
