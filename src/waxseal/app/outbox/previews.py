"""Proofs and poster frames: what a delivery will be, looked at before it is made."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import Protocol

from PySide6.QtCore import QObject, Signal, SignalInstance

from waxseal.app.document import Document
from waxseal.app.modal_wait import wait_for
from waxseal.app.outbox import outbox_texts
from waxseal.app.outbox.background_encoder import encoder
from waxseal.app.task_pool import Workbench
from waxseal.app.view.player import Player, ViewedDelivery
from waxseal.core.deliver.format.output_path import file_made, path_of
from waxseal.core.deliver.preview.delivery_preview import (
    make_poster,
    make_source_poster,
    proof_of,
    with_proof,
)
from waxseal.core.deliver.preview.file_view import Show
from waxseal.core.deliver.process.worker_messages import Before
from waxseal.core.errors import SoundError, WaxSealError
from waxseal.core.job.model import Delivery, DeliveryState, Job, Outcome, Sound
from waxseal.core.progress import CancelToken, Report
from waxseal.core.text_format import plain

__all__ = ["Previews", "open_file"]


class PreviewRequests(Protocol):
    """What asks for a look at a delivery, by its id."""

    @property
    def proof_asked(self) -> SignalInstance: ...

    @property
    def poster_asked(self) -> SignalInstance: ...

    @property
    def source_poster_asked(self) -> SignalInstance: ...

    @property
    def predict_asked(self) -> SignalInstance: ...

    @property
    def compare_asked(self) -> SignalInstance: ...

    @property
    def look_asked(self) -> SignalInstance: ...

    @property
    def hear_asked(self) -> SignalInstance: ...


class Previews(QObject):
    """said: how it went. made: the file of a proof or a poster frame."""

    said = Signal(str)
    made = Signal(object)

    def __init__(self, document: Document, player: Player, parent: QObject) -> None:
        super().__init__(parent)
        self._document, self._player = document, player
        self._bench = Workbench(self, threads=1)

    def serve(self, asks: PreviewRequests) -> None:
        """Connect what asks for looks at deliveries."""
        asks.proof_asked.connect(self.prove)
        asks.poster_asked.connect(self.poster)
        asks.source_poster_asked.connect(self.poster_of_source)
        asks.predict_asked.connect(self.predict)
        asks.compare_asked.connect(self.compare)
        asks.look_asked.connect(self.look_at)
        asks.hear_asked.connect(self.hear)

    @property
    def is_busy(self) -> bool:
        return self._bench.is_busy

    def prove(self, delivery: str) -> None:
        """A second around the playhead, as the delivery will be, opened when it is made."""
        timeline = self._player.timeline
        if timeline is None:
            return
        proof = proof_of(self._document.job.delivery(delivery), timeline, self._player.frame)
        self.said.emit(self.tr(outbox_texts.A_PROOF_IS_MADE))
        self._bench.start(
            partial(encode_proof, self._document.job, proof),
            finished=self._proved,
            failed=self._fail,
        )

    def _proved(self, made: tuple[Delivery, Outcome]) -> None:
        proof, outcome = made
        if outcome.state is not DeliveryState.SEALED:
            self.said.emit(" ".join(outcome.reasons))
            return
        path = path_of(proof)
        self.said.emit(self.tr(outbox_texts.A_PROOF_IS_THERE).format(plain(path.name)))
        self.made.emit(path)

    def toggle_look(self, ask: Callable[[], None]) -> None:
        """Back to the reel, or ask for a delivery to be looked at."""
        if self._player.looked is not None:
            self._player.look_at(None)
        else:
            ask()

    def look_at(self, delivery: str, file: Path | None = None) -> None:
        """A delivery in the picture: its file, or another, beside what the reel gives.

        Where nothing is made yet, it is what it will be.
        """
        file = file or wait_for(partial(file_made, self._document.job.delivery(delivery)))
        show = Show.BOTH if file is not None else Show.REEL
        try:
            self._player.look_at(ViewedDelivery(delivery, file, show))
        except WaxSealError as error:
            self.said.emit(str(error))

    def show_open(self, delivery: str) -> None:
        """The picture follows the docket that is open: its delivery as it will be, or the reel."""
        looked = self._player.looked
        if looked is not None and looked.is_by_docket and not delivery:
            self._player.look_at(None)
        elif delivery and (looked is None or looked.is_by_docket):
            viewed = ViewedDelivery(delivery, None, Show.REEL, is_by_docket=True)
            with suppress(WaxSealError):  # its docket says why it cannot be made
                self._player.look_at(viewed)

    def hear(self, delivery: str) -> None:
        """The sound of a delivery's file by itself; a second time it stops."""
        sounding = self._player.sounding
        if sounding.is_heard:
            sounding.stop()
            return
        self._player.stop()
        one = self._document.job.delivery(delivery)
        self._bench.start(partial(made_sound, one), finished=self._play, failed=self._fail)

    def _play(self, sound: Sound) -> None:
        self._player.sounding.play_alone(sound)

    def predict(self, delivery: str) -> None:
        """How large a delivery becomes, and how long it takes."""
        self.said.emit(self.tr(outbox_texts.A_FEW_SEGMENTS_ARE_ENCODED))
        one = self._document.job.delivery(delivery)
        self._bench.start(
            partial(predict_one, self._document.job, one),
            finished=self._predicted,
            failed=self._fail,
        )

    def compare(self, delivery: str, file: str) -> None:
        """Any file against the reel, as the delivery shows it."""
        one = self._document.job.delivery(delivery)
        words = self.tr(outbox_texts.IS_COMPARED_WITH_THE_REEL)
        self.look_at(delivery, Path(file))
        self.said.emit(words.format(plain(Path(file).name), plain(path_of(one).name)))
        self._bench.start(
            partial(compare_one, self._document.job, one, file),
            finished=self._compared,
            failed=self._fail,
        )

    def _compared(self, made: tuple[str, Outcome]) -> None:
        file, outcome = made
        words = " ".join((*outcome.notes, *outcome.reasons))
        self.said.emit(f"{plain(Path(file).name)}: {words}")

    def _predicted(self, made: tuple[Delivery, Outcome]) -> None:
        delivery, outcome = made
        words = " ".join((*outcome.notes, *outcome.reasons))
        self.said.emit(f"{plain(path_of(delivery).name)}: {words}")

    def poster(self, delivery: str) -> None:
        """The frame under the playhead as a picture beside the delivery."""
        one = self._document.job.delivery(delivery)
        if self._player.timeline is not None:
            self._bench.start(
                partial(write_poster, self._document.job, one, self._player.frame),
                finished=self._posted,
                failed=self._fail,
            )

    def poster_of_source(self, delivery: str, source: str, frame: int) -> None:
        """Write a frame of a source as a picture beside the delivery, in its size and colour."""
        one = self._document.job.delivery(delivery)
        self._bench.start(
            partial(write_source_poster, self._document.job, one, source, frame),
            finished=self._posted,
            failed=self._fail,
        )

    def _posted(self, path: Path) -> None:
        self.said.emit(self.tr(outbox_texts.A_POSTER_FRAME_IS_THERE).format(plain(path.name)))
        self.made.emit(path)

    def _fail(self, error: Exception) -> None:
        self.said.emit(str(error))

    def close(self) -> None:
        self._bench.close()


def open_file(path: object) -> None:
    """In the desktop's own program for it."""
    from PySide6.QtCore import QUrl
    from PySide6.QtGui import QDesktopServices

    QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))


def made_sound(delivery: Delivery, _report: Report, _token: CancelToken) -> Sound:
    """Raises SoundError, also if there is no file yet."""
    from waxseal.core.sound.sound_files import probe_sound  # it brings codecs along

    file = file_made(delivery)
    if file is None:
        raise SoundError(outbox_texts.IS_NOT_MADE_YET.format(plain(path_of(delivery).name)))
    return probe_sound(file)


def encode_proof(
    job: Job, proof: Delivery, report: Report, token: CancelToken
) -> tuple[Delivery, Outcome]:
    outcome = encoder().deliver(
        with_proof(job, proof), proof, report=report, token=token, overwrite=True
    )
    return proof, outcome


def predict_one(
    job: Job, delivery: Delivery, report: Report, token: CancelToken
) -> tuple[Delivery, Outcome]:
    outcome = encoder().deliver(job, delivery, report=report, token=token, before=Before.PREDICT)
    return delivery, outcome


def compare_one(
    job: Job, delivery: Delivery, file: str, report: Report, token: CancelToken
) -> tuple[str, Outcome]:
    outcome = encoder().deliver(
        job, delivery, report=report, token=token, before=Before.AGAINST, file=file
    )
    return file, outcome


def write_poster(
    job: Job, delivery: Delivery, at: int, _report: Report, _token: CancelToken
) -> Path:
    return make_poster(job, delivery, at)


def write_source_poster(
    job: Job, delivery: Delivery, source: str, frame: int, _report: Report, _token: CancelToken
) -> Path:
    return make_source_poster(job, delivery, source, frame)
