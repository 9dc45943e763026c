"""Every table that the demo empties when it is built again, those that refer to others first."""

from tempermark.web.certificates.models import Certificate
from tempermark.web.experiments.models import (
    Experiment,
    PlannedPress,
    WashedPress,
    WashScore,
    WashTrial,
)
from tempermark.web.heat.models import Lesson, LessonRequest, StackTrace
from tempermark.web.jobs.models import Clock, Job, Order, PlatenChange, Tick
from tempermark.web.kit.records.audit import AuditEntry
from tempermark.web.kit.records.backups import Backup
from tempermark.web.live.models import Block, LoggerKey, Minute, Recording
from tempermark.web.measure.models import (
    Instrument,
    InstrumentCheck,
    PadComparison,
    Reading,
    Station,
    Survey,
    SurveyVersion,
)
from tempermark.web.planning.models import OrderFile, Plan, PlanRules, StockEntry, WorkHours
from tempermark.web.presses.models import Element, Press, PressEvent, PressPhoto
from tempermark.web.pressure.models import (
    CarbonPrint,
    ContactReading,
    KnobLesson,
    LeanReading,
    PressureState,
    PressureSurvey,
    Pull,
    PullStation,
    RaisedPart,
    WearNote,
)
from tempermark.web.printing.models import Art, PrintSettings, PrintSettingsVersion
from tempermark.web.recipes.models import Blank, OwnMaterial, PlacingGuide
from tempermark.web.run.models import (
    COUNTS,
    LogEntry,
    Lot,
    Mark,
    PiecePhoto,
    PressedPiece,
    PressSetting,
    Run,
    TestPress,
)
from tempermark.web.supplies.models import Currency, Price
from tempermark.web.trace.models import CheckRecord, FaultCase

ROOM = (
    OrderFile,
    PlanRules,
    StockEntry,
    WorkHours,
    Plan,
    CarbonPrint,
    Pull,
    PullStation,
    PressureSurvey,
    PressureState,
    ContactReading,
    KnobLesson,
    LeanReading,
    WearNote,
    RaisedPart,
    Minute,
    Block,
    Recording,
    LoggerKey,
    Certificate,
    StackTrace,
    Lesson,
    LessonRequest,
    OwnMaterial,
    CheckRecord,
    FaultCase,
    Mark,
    WashScore,
    WashedPress,
    WashTrial,
    PlannedPress,
    Experiment,
    LogEntry,
    PiecePhoto,
    PressSetting,
    TestPress,
    PressedPiece,
    Run,
    Clock,
    Tick,
    Job,
    Order,
    PlatenChange,
    Art,
    PrintSettingsVersion,
    PrintSettings,
    PlacingGuide,
    Price,
    Currency,
    Lot,
    Reading,
    Station,
    Survey,
    SurveyVersion,
    PadComparison,
    InstrumentCheck,
    Instrument,
    PressPhoto,
    PressEvent,
    Element,
    Press,
    Blank,
    AuditEntry,
    Backup,
    *COUNTS,
)
