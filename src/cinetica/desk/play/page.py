"""The page Play: real time, input, shadows, and the recording of takes."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, Qt, QTimer, Signal
from PySide6.QtGui import QFocusEvent, QHideEvent, QKeyEvent, QShowEvent
from typing_extensions import override

from cinetica.desk.dialogs.base import run
from cinetica.desk.play.arena import Arena
from cinetica.desk.play.bindings import Bindings
from cinetica.desk.play.controls import PlayFace
from cinetica.desk.play.game import SPEEDS, Game, now
from cinetica.desk.play.input_latency import InputLatency
from cinetica.desk.play.keyboard import Keyboard
from cinetica.desk.play.mouse_look import MouseLook
from cinetica.desk.play.pads import Pads
from cinetica.desk.play.rolling import Rolling
from cinetica.desk.play.screen_pad import ScreenPad
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Kept, Store
from cinetica.files.shipped import shipped_study
from cinetica.model import editing
from cinetica.model.editing import free_name
from cinetica.model.laws import Law
from cinetica.model.rescaling import rescaled_drill
from cinetica.model.study import Drill
from cinetica.model.tune import Tune
from cinetica.model.world_size import world_size
from cinetica.motion.live import Held
from cinetica.reading.channels import Channel

FRAME_MS = 16
SPEED_WORDS = {1.0: "1×", 0.5: "½", 0.25: "¼"}
COMMANDS = {
    Qt.Key.Key_P.value: "pause", Qt.Key.Key_Period.value: "step", Qt.Key.Key_Backspace.value: "respawn",
    Qt.Key.Key_Tab.value: "follow",
    Qt.Key.Key_R.value: "record", Qt.Key.Key_K.value: "keep", Qt.Key.Key_V.value: "pad", Qt.Key.Key_I.value: "words",
    Qt.Key.Key_C.value: "camera", Qt.Key.Key_F.value: "whole", Qt.Key.Key_Plus.value: "nearer",
    Qt.Key.Key_Equal.value: "nearer", Qt.Key.Key_Minus.value: "farther", Qt.Key.Key_L.value: "look",
    Qt.Key.Key_O.value: "postures",
}  # fmt: skip


# How many of the strips' channels are shown here, rolling.
MOST_ROLLING = 4


def _take_name(session: Session) -> str:
    return free_name("Played take", [drill.name for drill in session.study.drills])


def _played(session: Session, *, shadows: bool) -> list[tuple[int, Tune]]:
    """The reference first, then its shadows, each with its place among the tunes of its view."""
    tunes = [(place, tune) for place, tune in session.tunes if not session.is_hidden(tune)]
    reference = session.reference
    tunes.sort(key=lambda pair: pair[1] is not reference)
    return tunes if shadows else tunes[:1]


class PlayPage(PlayFace):
    """It has the keyboard while it is shown; whenever it loses it, all keys are released."""

    GUIDE = "A run over the roofs"

    TAKES_KEYS = True

    # A take was recorded: the name of its drill, which is in the study by now.
    recorded = Signal(str)

    def __init__(
        self,
        session: Session,
        clock: Callable[[], float] = now,
        pads: Pads | None = None,
        channels: Callable[[], list[Channel]] = list,
    ) -> None:
        """`channels`: those that roll along when the page is entered."""
        super().__init__()
        self._channels = channels
        self.session, self.clock = session, clock
        self.keyboard = Keyboard()
        self.game = Game(self.hands)
        self.shadows = True
        self.latency = InputLatency()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Play: the character in the hand")
        self.arena = Arena(self.game)
        self.arena.painted.connect(self._painted)
        self.mouse = MouseLook(self.arena)
        self.mouse.changed.connect(self._update_look)
        self.rolling = Rolling(self.game)
        self.pad = ScreenPad()
        self.pad.hide()
        self.pad.changed.connect(self._noted)
        self.pads = pads or Pads(parent=self)
        self.pads.changed.connect(self._noted)
        self.pads.message.connect(self.show_message)
        self.timer = QTimer(self)
        self.timer.setTimerType(Qt.TimerType.PreciseTimer)
        self.timer.setInterval(FRAME_MS)
        self.timer.timeout.connect(self.frame)
        self.acts = self._acts()
        self._lay_out()
        self._update_units()
        session.units_changed.connect(self._update_units)
        session.study_changed.connect(self._take_over_numbers)
        for signal in (session.shown_changed, session.reference_changed, session.drill_changed):
            signal.connect(self.begin)

    def _acts(self) -> dict[str, Callable[[], object]]:
        """What each button does, by its name."""
        return {
            "pause": self.toggle_pause, "step": self.one_tick, "respawn": self.respawn, "follow": self.follow_next,
            "record": self.toggle_recording, "keep": self.keep_last, "pad": self.toggle_pad, "words": self.toggle_words,
            "camera": self.toggle_camera, "speed": self.next_speed, "shadows": self.toggle_shadows,
            "bindings": self.open_bindings, "course": self._course_chosen, "nearer": lambda: self.arena.zoom_by(1),
            "farther": lambda: self.arena.zoom_by(-1), "whole": self.arena.show_whole, "look": self.toggle_look,
            "postures": self.toggle_postures,
        }  # fmt: skip

    # What is played

    def _drill(self) -> Drill | None:
        drill = self.session.drill
        view = drill.view if drill else "side"
        if drill is None or self.courses.currentIndex() == 1:
            yard = next(each for each in shipped_study("yard").drills if each.view == view)
            return rescaled_drill(yard, world_size(self.session.reference))
        return drill

    def begin(self) -> None:
        """Put the characters at the start."""
        if not self.isVisible() or not self.session.ready:
            return
        played, drill = _played(self.session, shadows=self.shadows), self._drill()
        if not played or drill is None:
            self.game.live = None
            self.arena.update()
            self.show_message("There is no tune to play. Show one, or add one from the Tune menu.")
            return
        self.arena.places = self.rolling.places = [place for place, _ in played]
        self.arena.followed = 0
        self.game.begin([tune for _, tune in played], drill, self.session.study.clock.tick_rate)
        self.pad.view.tune = played[0][1]
        self.arena.centre()
        self._paint()

    def _update_units(self) -> None:
        self.arena.units = self.rolling.units = self.session.units
        self.arena.update()
        self.rolling.update()

    def _take_over_numbers(self) -> None:
        """Apply changed numbers while the character moves; other tunes need a new start."""
        live = self.game.live
        if live is None or not self.isVisible():
            return
        played = _played(self.session, shadows=self.shadows)
        if [tune.name for _, tune in played] != [tune.name for tune in live.tunes]:
            self.begin()
            return
        live.change([tune for _, tune in played])
        self.pad.view.tune = played[self.arena.followed][1]
        self.pad.view.update()

    def _course_chosen(self) -> None:
        self.begin()
        self.setFocus()

    def hands(self) -> Held:
        """The input of the keyboard, the on-screen pad, a real one, and the mouse while it is captured."""
        real = self.pads.held
        own = self.pad.view.own if self.pad.isVisible() else (0.0, 0.0)
        stick = own if own != (0.0, 0.0) else real.stick
        stick = self._with_thrust(stick, self.pads.thrust)
        moved = self.mouse.taken() if self.mouse.captured else (0.0, 0.0)
        return Held(frozenset(self.keyboard.held | self.pad.held | real.keys), stick, real.aim, moved)

    def _with_thrust(self, stick: tuple[float, float], thrust: float) -> tuple[float, float]:
        """The stick with the triggers' thrust, for a tune that turns and thrusts."""
        live = self.game.live
        if not thrust or live is None or live.tunes[self.arena.followed].drive.law != Law.STEER:
            return stick
        return stick[0], max(-1.0, min(1.0, stick[1] + thrust))

    # Time

    def frame(self) -> None:
        """Run what is due, and paint it."""
        late = self.game.dropped
        if self.game.paused:
            # Mouse motion in the meantime does not turn the look.
            self.mouse.taken()
        self.game.advance_to(self.clock())
        if self.pad.isVisible():
            self.pad.view.show_real(self.pads.held.stick)
        if self.game.dropped != late:
            self.update_time()
        self._paint()

    def _paint(self) -> None:
        for part in (self.arena, self.rolling):
            part.update()

    def _noted(self) -> None:
        """Measure the wait from this input to the first picture that shows it."""
        if self.game.live is not None and not self.game.paused:
            self.latency.begin(self.clock(), self.game.live.rows)

    @override
    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            lets_go = event.key() == Qt.Key.Key_Escape and self.mouse.captured
            if lets_go or self._is_ours(event):
                event.accept()
                return True
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Tab:
            self.follow_next()
            return True
        return super().event(event)

    def _painted(self) -> None:
        if self.game.live is not None and self.latency.end(self.clock(), self.game.live.rows):
            self.update_time()

    def update_time(self) -> None:
        """Show the time from key to picture, and ticks that could not be run in time."""
        words = self.latency.words(self.game.live.tick_rate if self.game.live else 60.0)
        if self.game.dropped:
            words.append(f"{self.game.dropped} ticks dropped: machine too slow")
        self.honest.setText("   ".join(words))

    def show_message(self, words: str) -> None:
        """Show a message."""
        self.hint.setText(words)

    # Keys

    def _is_ours(self, event: QKeyEvent) -> bool:
        control = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        return not control and (event.key() in self.keyboard.bindings or event.key() in COMMANDS)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.mouse.captured:
            self.mouse.capture(False)
            return
        if not self._is_ours(event):
            super().keyPressEvent(event)
            return
        if event.isAutoRepeat():
            return
        if self.keyboard.press(event.key()):
            self._noted()
            return
        self.acts[COMMANDS[event.key()]]()

    @override
    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.isAutoRepeat() or not self.keyboard.release(event.key()):
            super().keyReleaseEvent(event)

    def release_all(self) -> None:
        """Release every key and button."""
        self.keyboard.release_all()
        self.pad.release_all()
        self.mouse.capture(False)
        self.latency.forget()

    @override
    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.release_all()

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.begin()
        self.setFocus()
        self.game.resume(self.clock())
        self.timer.start()
        self.pads.start()
        # Without a pad, a newcomer needs to know the keys.
        if self.pads.pad is None:
            self.show_message(self.pads.words if self.pads.unreadable else self._hint())
        self._update_pause()

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.timer.stop()
        self.pads.stop()
        self.game.pause()
        self.release_all()

    # Commands

    def toggle_pause(self) -> None:
        """Pause or resume."""
        if self.game.paused:
            self.game.resume(self.clock())
        else:
            self.game.pause()
        self._update_pause()

    def _update_pause(self) -> None:
        self.pause_button.setText("Go on" if self.game.paused else "Pause")

    def one_tick(self) -> None:
        """Pause, and run one tick."""
        self.game.pause()
        self._update_pause()
        self.game.step()
        self._paint()

    def next_speed(self) -> None:
        """Change the speed."""
        self.game.speed = SPEEDS[(SPEEDS.index(self.game.speed) + 1) % len(SPEEDS)]
        self.speed_button.setText(f"Speed: {SPEED_WORDS[self.game.speed]}")

    def respawn(self) -> None:
        """Return to the start."""
        self.game.respawn()
        self.arena.centre()
        self._paint()

    def toggle_shadows(self) -> None:
        """Show or hide the other tunes."""
        self.shadows = not self.shadows
        self.shadow_button.setChecked(self.shadows)
        self.begin()

    def follow_next(self) -> None:
        """Follow the next tune."""
        live = self.game.live
        if live is not None:
            self.arena.followed = (self.arena.followed + 1) % len(live.tunes)
            self.pad.view.tune = live.tunes[self.arena.followed]
            self.arena.centre()
            self._paint()
            self.show_message(f"The camera follows {live.tunes[self.arena.followed].name}.")

    def open_bindings(self) -> None:
        """Show the bindings; the game is paused meanwhile."""
        self.game.pause()
        self._update_pause()
        run(Bindings(self.keyboard, self.pads, COMMANDS, self))
        self.show_message(self._hint())

    def toggle_pad(self) -> None:
        """Show or hide the on-screen pad."""
        self.pad.release_all()
        self.pad.setVisible(not self.pad.isVisible())
        self.pad_button.setChecked(self.pad.isVisible())

    def toggle_words(self) -> None:
        """Show or hide the words beside the character."""
        self.arena.words_shown = not self.arena.words_shown
        self.words_action.setChecked(self.arena.words_shown)
        self._paint()

    def toggle_postures(self) -> None:
        """Show bodies by their posture, or boxes alone."""
        self.arena.show_postures(not self.arena.postures)
        self.postures_action.setChecked(self.arena.postures)

    def toggle_camera(self) -> None:
        """Use the tune's own camera, or one that stays close."""
        self.arena.own_camera = not self.arena.own_camera
        self.camera_action.setChecked(self.arena.own_camera)
        self.arena.centre()
        self.show_message(
            "The camera follows the tune's settings."
            if self.arena.own_camera
            else "The camera stays near the character."
        )
        self._paint()

    def toggle_look(self) -> None:
        """Let the mouse turn the look, or let it go."""
        self.mouse.capture(not self.mouse.captured)

    def _update_look(self, captured: bool) -> None:
        self.look_action.setChecked(captured)
        self.show_message("The mouse turns the look. Escape lets it go." if captured else "The mouse is free again.")

    def toggle_recording(self) -> None:
        """Start recording, or stop and keep the drill."""
        if self.game.recording:
            self._keep(self.game.stop_recording(_take_name(self.session)))
        else:
            self.game.record()
            self.arena.centre()
            self.show_message("Recording from the start. Press R again to make it a drill.")
        self.record_button.setChecked(self.game.recording)
        self.record_button.setText("Stop recording" if self.game.recording else "Record")

    def keep_last(self) -> None:
        """Keep the last seconds as a drill."""
        self._keep(self.game.last_seconds(_take_name(self.session)))

    def _keep(self, drill: Drill | None) -> None:
        """Add the recorded drill to the study and show it in Compare."""
        if drill is None:
            self.show_message("Nothing has been played yet.")
            return
        if self.session.alter(f"Record {drill.name}", lambda study: editing.with_recorded(study, drill)):
            self.session.choose_drill(drill.name)
            self.recorded.emit(drill.name)

    @override
    def enter(self) -> None:
        self.rolling.show_channels(self._channels()[:MOST_ROLLING])

    @override
    def keep(self, settings: Store) -> None:
        settings.set(Kept.POSTURES_IN_PLAY, self.arena.postures)
        settings.set(Kept.KEYS, [f"{key}={name}" for key, name in self.keyboard.bindings.items()])

    @override
    def restore(self, settings: Store) -> None:
        self.arena.show_postures(settings.get(Kept.POSTURES_IN_PLAY))
        self.postures_action.setChecked(self.arena.postures)
        self.keyboard.bind_as(settings.get(Kept.KEYS))
