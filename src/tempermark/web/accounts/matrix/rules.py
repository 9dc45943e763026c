"""Who may look at each address and who may send it something: what the gate holds to, what the page
of permissions shows, and what the tests try for every address, method and role.
"""

from dataclasses import dataclass
from enum import IntEnum


class Reach(IntEnum):
    """Who reaches something, each with all that the one before reaches."""

    ANYBODY = 0
    CLERK = 1
    TECHNICIAN = 2
    # A technician who entered the row in question, or a lead: the act itself looks who did.
    AUTHOR = 3
    LEAD = 4
    NOBODY = 5


@dataclass(frozen=True)
class Access:
    """Who may look at an address, and who may send it something."""

    look: Reach
    send: Reach


# Everybody who is signed in looks.
SHOWN = Access(Reach.CLERK, Reach.NOBODY)
# Everybody looks, technicians change.
WORKED_ON = Access(Reach.CLERK, Reach.TECHNICIAN)
# An act of technicians.
WORK = Access(Reach.NOBODY, Reach.TECHNICIAN)
# A form of technicians.
WORK_FORM = Access(Reach.TECHNICIAN, Reach.TECHNICIAN)
# An act of leads.
LEADING = Access(Reach.NOBODY, Reach.LEAD)
# A form of leads.
LEADING_FORM = Access(Reach.LEAD, Reach.LEAD)
# Everybody looks, leads change.
LED = Access(Reach.CLERK, Reach.LEAD)
# One's own page.
OWN_FORM = Access(Reach.CLERK, Reach.CLERK)
# An act of one's own.
OWN = Access(Reach.NOBODY, Reach.CLERK)
# Leads look.
FOR_LEADS = Access(Reach.LEAD, Reach.NOBODY)
# The way in.
DOOR = Access(Reach.ANYBODY, Reach.ANYBODY)
# For devices and calendars that sign in nowhere.
OPEN = Access(Reach.ANYBODY, Reach.NOBODY)
# A form of whoever entered it, and of leads.
AUTHORS_FORM = Access(Reach.AUTHOR, Reach.AUTHOR)
# An act of whoever entered it, and of leads.
AUTHORS = Access(Reach.NOBODY, Reach.AUTHOR)
# Technicians look.
FOR_WORK = Access(Reach.TECHNICIAN, Reach.NOBODY)

# App → access → the names of its addresses.
RULES: dict[str, dict[Access, str]] = {
    "accounts": {
        DOOR: "hands sign-in sign-up",
        FOR_LEADS: "audit audit-file",
        LEADING: "end-tablet reset set-active set-role withdraw-link",
        LEADING_FORM: "people shared-tablets",
        OWN: "end-sessions sign-out",
        OWN_FORM: "me units",
        SHOWN: "history permissions",
        WORK: "remove-pin",
        WORK_FORM: "pin",
    },
    "bench": {
        SHOWN: "at-press bench platen run together worker",
        WORK: "add-photo again entries resume",
        WORKED_ON: "labels",
        WORK_FORM: "start-job start-recipe",
    },
    "certificates": {
        LEADING: "sign",
        SHOWN: "certificate json pdf",
    },
    "demo": {
        SHOWN: "practice practice-state",
        WORK: "practice-discard practice-start",
    },
    "experiments": {
        LEADING: "choose withdraw-setting",
        SHOWN: "experiments labels leaflet sheet wash-trial wash-trials",
        WORK: "end pressed propose run score skip wash-end wash-score",
        WORK_FORM: "new new-wash-trial",
    },
    "heat": {
        LEADING: "accept-lesson decline-lesson revert-lesson",
        SHOWN: (
            "heat heat-platen heat-row heat-summary heat-uncertainty lessons recipe version "
            "windows windows-summary"
        ),
        WORK: "ask-lesson turn-trace",
        WORK_FORM: "new-trace",
    },
    "lan": {
        OPEN: "manifest",
        SHOWN: "code tablets",
    },
    "live": {
        LEADING: "end-key make-key",
        SHOWN: "csv events live ndjson",
        WORK: "keep",
    },
    "logbook": {
        SHOWN: (
            "compare export find logbook of-instrument of-survey photo piece piece-code "
            "while-off while-off-export yield"
        ),
        WORK: "add-photo withdraw-photo",
    },
    "measure": {
        SHOWN: "calibration chart comparison csv instruments json list summary survey",
        WORK: "check-instrument enter finish reopen take-back withdraw",
        WORK_FORM: "compare import instrument new new-instrument",
    },
    "overview": {
        FOR_LEADS: "backups room-archive",
        FOR_WORK: "first-recipe",
        OPEN: "feed",
        OWN: "new-feed",
        SHOWN: "archive due-calendar files floor place press table",
        WORK: "import-many import-table use-setting",
    },
    "planning": {
        LEADING: "change-rules remove-hours",
        LED: "hours",
        SHOWN: "export next-here orders plan progress wall",
        WORK: "again close-order enough in-force search-again",
        WORKED_ON: "order planned-run plans stock",
        WORK_FORM: "change-order import-orders new-order order-file",
    },
    "prepare": {
        SHOWN: (
            "art-printed bleed brush card card-code clock-strip compare cooling guide guides "
            "hover job jobs mix overlay pick-change pick-overlay ruler sheets sheets-printed "
            "spray straight template template-file tools"
        ),
        WORK: (
            "change-end choose-guide clock-heard clock-longer clock-start clock-stop close "
            "guide-retire print-settings tick"
        ),
        WORKED_ON: "art change clocks cost",
        WORK_FORM: "guide-change guide-new new",
    },
    "presses": {
        LEADING_FORM: "change new-press",
        SHOWN: "label-code labels photo",
        WORK: "change-photo event refit",
        WORKED_ON: "elements photos",
    },
    "pressure": {
        AUTHORS: "withdraw-lesson",
        SHOWN: (
            "cap cap-of combined-map csv json picture piece-summary pieces pressure sample-print "
            "summary survey vessel vessel-of"
        ),
        WORK: (
            "add-reading enter finish import-pulls lean remove-raised reopen set take-back "
            "take-back-pull withdraw-lean withdraw-reading"
        ),
        WORKED_ON: "learn piece wear",
        WORK_FORM: "blank new-blank new-print new-pulls",
    },
    "printing": {
        SHOWN: "art preview settings settings-one",
        WORK: "retire-art settings-retire",
        WORKED_ON: "arts",
        WORK_FORM: "settings-change settings-new",
    },
    "recipes": {
        LEADING: "restore retire-recipe withdraw",
        LEADING_FORM: "edit-recipe import-recipe new-recipe",
        LED: "material new-material",
        SHOWN: "library library-file recipe-file recipes versions",
    },
    "run": {
        SHOWN: "list lot-code lot-label test-press under-the-art",
        WORK: "mark retire-lot wear",
        WORKED_ON: "lots",
        WORK_FORM: "new",
    },
    "supplies": {
        LED: "prices",
    },
    "trace": {
        AUTHORS: "withdraw-check withdraw-mark withdraw-piece withdraw-reading",
        AUTHORS_FORM: "correct-check correct-mark correct-piece correct-reading",
        LEADING: "withdraw-change",
        LED: "cause",
        SHOWN: "case case-file cases checks fault faults how-well knowledge reversals",
        WORK: "answer check choose-marks close close-as-normal open reopen score take-check-back",
    },
}

ACCESS: dict[str, Access] = {
    f"{app}:{name}": access
    for app, rules in RULES.items()
    for access, names in rules.items()
    for name in names.split()
}
