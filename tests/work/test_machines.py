"""Machines as processes apart: one dies, one is cut off, one leaves, the broker ends; and what is signed by nobody."""

from __future__ import annotations

import pickle
import subprocess
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from drelo.core.errors import Busy
from drelo.work.machines import machines as module
from drelo.work.machines.engine import PULSE, RUN, SILENCE, Forged, engine, queue_of, signing
from drelo.work.machines.machines import Machines
from tests.network import Network, possible
from tests.redis import Redis
from tests.refusals import refused
from tests.work.jobs import sleep, whoami
from tests.work.machines import KEY, Machine, joined
from tests.work.test_workers import in_thread

NAMES = ("one", "two", "three")


@pytest.fixture(scope="module")
def redis(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Redis]:
    redis = Redis(tmp_path_factory.mktemp("redis"))
    redis.start()
    yield redis
    redis.stop()


@pytest.fixture(scope="module")
def fleet(redis: Redis, tmp_path_factory: pytest.TempPathFactory) -> Iterator[dict[str, Machine]]:
    folder = tmp_path_factory.mktemp("machines")
    fleet = {name: Machine(redis.address, name, folder, workers=1) for name in NAMES}
    yield fleet
    for machine in fleet.values():
        if machine.process.poll() is None:
            machine.kill()


@pytest.fixture
def machines(redis: Redis, fleet: dict[str, Machine], tmp_path: Path) -> Iterator[Machines]:
    """All three machines; those that a test ended have joined again."""
    for name in NAMES:
        if fleet[name].process.poll() is not None:
            fleet[name] = Machine(redis.address, name, tmp_path, workers=1)
    machines = Machines(engine(redis.address, KEY))
    joined(machines, *NAMES)
    yield machines
    machines.close()


def homes(machines: Machines, number: int = 24) -> dict[str, list[str]]:
    """The pieces of each machine."""
    found: dict[str, list[str]] = {name: [] for name in NAMES}
    for piece in map(str, range(number)):
        found[where(machines, piece)].append(piece)
    return found


def where(machines: Machines, piece: str) -> str:
    return machines.run(piece, on_machine)


def on_machine(checkpoint) -> str:
    """The name of the machine that this runs on."""
    words = Path("/proc/self/environ").read_bytes().decode().split("\0")
    return next(word.partition("=")[2] for word in words if word.startswith("DRELO_MACHINE="))


class TestPlace:
    def test_a_piece_finds_its_machine_again_and_all_have_some(self, machines):
        first = homes(machines)
        assert all(first[name] for name in NAMES)
        assert homes(machines) == first

    def test_a_worker_is_warm_for_its_piece(self, machines):
        assert len({machines.run("warm", whoami) for _ in range(6)}) == 1

    def test_another_machine_helps_where_one_is_crowded(self, machines):
        *mine, last = homes(machines)["one"][:6]
        threads = [in_thread(machines.run, piece, sleep, 8.0)[0] for piece in mine]
        until = time.monotonic() + 7
        while (one := machines.by_machine()["one"]).running + one.waiting < len(mine) and time.monotonic() < until:
            time.sleep(0.1)
        begin = time.monotonic()
        assert where(machines, last) != "one"
        assert time.monotonic() - begin < 6
        for thread in threads:
            thread.join(30)


class TestFaults:
    def test_what_a_machine_was_at_that_dies_is_done_by_another(self, machines, fleet):
        piece = homes(machines)["two"][0]
        thread, found = in_thread(machines.run, piece, sleep, 3.0)
        time.sleep(1.0)
        fleet["two"].kill()
        thread.join(30)
        assert found == ["done"]
        assert where(machines, piece) != "two"

    def test_one_that_is_cut_off_is_gone_and_back_when_it_is_heard_again(self, machines, fleet):
        piece = homes(machines)["three"][0]
        fleet["three"].freeze()
        try:
            begin = time.monotonic()
            assert where(machines, piece) != "three"
            assert time.monotonic() - begin < 2 * module.SILENCE + 3
            joined(machines, "one", "two")
        finally:
            fleet["three"].thaw()
        joined(machines, *NAMES)
        assert where(machines, piece) == "three"

    def test_one_that_leaves_finishes_what_it_is_at(self, machines, fleet):
        piece = homes(machines)["one"][0]
        thread, found = in_thread(machines.run, piece, sleep, 3.0)
        time.sleep(1.0)
        fleet["one"].leave()
        thread.join(30)
        assert found == ["done"]
        assert fleet["one"].process.returncode == 0

    def test_a_broker_that_ends_and_comes_back_loses_nothing_that_is_waited_for(self, machines, redis):
        runs = [in_thread(machines.run, f"kept {n}", sleep, 0.5 + n / 2) for n in range(6)]
        time.sleep(0.7)
        redis.stop()
        during = in_thread(machines.run, "asked while it was away", sleep, 0.0)
        time.sleep(2.0)
        redis.start()
        for thread, _ in [*runs, during]:
            thread.join(60)
        assert [found for _, found in [*runs, during]] == [["done"]] * 7

    def test_work_goes_on_while_machines_come_and_go(self, machines, fleet, redis, tmp_path):
        done: list[object] = []
        ending = threading.Event()

        def make(number: int) -> None:
            while not ending.is_set():
                try:
                    done.append(machines.run(f"piece {number}", sleep, 0.05))
                except Exception as error:
                    done.append(error)

        makers = [threading.Thread(target=make, args=(n,)) for n in range(6)]
        for maker in makers:
            maker.start()
        time.sleep(1)
        fleet["one"].kill()
        time.sleep(3)
        fleet["one"] = Machine(redis.address, "one", tmp_path, workers=1)
        fleet["two"].leave()
        time.sleep(8)
        ending.set()
        for maker in makers:
            maker.join(30)
        assert len(done) > 50
        assert set(done) == {"done"}

    def test_where_nobody_has_joined_one_is_told_to_ask_again(self, tmp_path, monkeypatch):
        monkeypatch.setattr(module, "PATIENCE", 0.5)
        alone = Redis(tmp_path)
        alone.start()
        machines = Machines(engine(alone.address, KEY))
        with pytest.raises(Busy):
            machines.run("piece", whoami)
        assert machines.state().ready == 0
        machines.close()
        alone.stop()

    def test_a_second_machine_of_one_name_is_refused(self, machines, redis, tmp_path):
        second = Machine(redis.address, "one", tmp_path)
        assert second.process.wait(60) == 1
        assert "has joined already" in second.log.read_text()


@pytest.mark.skipif(not possible(), reason="network namespaces need root and iproute2")
class TestCutOff:
    """Machines with addresses of their own: a cable that is pulled refuses nothing, it only says nothing."""

    @pytest.fixture
    def network(self) -> Iterator[Network]:
        network = Network()
        yield network
        network.close()

    def test_what_a_machine_was_at_is_done_by_another_and_it_is_back_with_its_cable(self, network, tmp_path):
        redis = Redis(tmp_path, bind=network.address)
        redis.start()
        fleet = [Machine(redis.address, name, tmp_path, workers=1, on=network.host(name)) for name in NAMES]
        machines = Machines(engine(redis.address, KEY))
        try:
            joined(machines, *NAMES)
            piece = homes(machines)["two"][0]
            thread, found = in_thread(machines.run, piece, sleep, 3.0)
            time.sleep(1.0)
            network.cut("two")
            thread.join(30)
            assert found == ["done"]
            joined(machines, "one", "three")
            # Longer than either side waits for a word of the other before it takes the line for dead.
            time.sleep(SILENCE + PULSE)
            network.mend("two")
            joined(machines, *NAMES)
            assert where(machines, piece) == "two"
        finally:
            machines.close()
            for machine in fleet:
                machine.kill()
            redis.stop()


class TestSigned:
    def test_what_is_signed_comes_back(self):
        write, read = signing(KEY)
        assert read(write({"a": [1, 2.5, b"x"]})) == {"a": [1, 2.5, b"x"]}

    @pytest.mark.parametrize("spoilt", ["unsigned", "other key", "changed", "short"])
    def test_what_is_not_is_never_unpickled(self, spoilt):
        write, read = signing(KEY)
        trap = Trap()
        other, _ = signing("another key, which is as long as the first")
        sent = {
            "unsigned": pickle.dumps(trap),
            "other key": other(trap),
            "changed": write(trap)[:-1] + b"!",
            "short": b"abc",
        }[spoilt]
        with pytest.raises(Forged):
            read(sent)
        assert not Trap.sprung

    def test_who_has_another_key_is_not_heard_and_does_no_harm(self, machines, redis, monkeypatch):
        monkeypatch.setattr(module, "PATIENCE", 2.0)
        other = engine(redis.address, "a key that is not the key of this workshop")
        stranger = Machines(other)
        for name in NAMES:
            other.send_task(RUN, ("piece", spring, (), {}), queue=queue_of(name))
        with pytest.raises(Busy):
            stranger.run("piece", whoami)
        stranger.close()
        # `engine` names one way to sign in a process: ours again.
        engine(redis.address, KEY)
        assert [where(machines, str(n)) in NAMES for n in range(12)] == [True] * 12

    def test_a_short_key_and_another_kind_of_broker_are_refused(self):
        with refused("openssl rand"):
            engine("redis://127.0.0.1:1", "short")
        with refused("rediss://"):
            engine("amqp://127.0.0.1:1", KEY)


class Trap:
    sprung = False

    def __reduce__(self) -> tuple[object, tuple[()]]:
        return (spring, ())


def spring() -> None:
    Trap.sprung = True


class TestOverTls:
    @pytest.fixture
    def secured(self, tmp_path: Path) -> Iterator[tuple[Redis, Path]]:
        key, certificate = tmp_path / "key.pem", tmp_path / "cert.pem"
        subprocess.run(
            [
                *("openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=127.0.0.1"),
                *("-addext", "subjectAltName=IP:127.0.0.1", "-keyout", str(key), "-out", str(certificate)),
            ],
            check=True,
            capture_output=True,
        )
        words = ("--tls-cert-file", str(certificate), "--tls-key-file", str(key), "--tls-auth-clients", "no")
        redis = Redis(tmp_path, *words, tls=True)
        redis.start()
        yield redis, certificate
        redis.stop()

    def test_jobs_travel_over_tls(self, secured, tmp_path):
        redis, certificate = secured
        machine = Machine(redis.address, "far", tmp_path, DRELO_BROKER_CA=str(certificate))
        machines = Machines(engine(redis.address, KEY, certificate))
        try:
            joined(machines, "far")
            assert machines.run("piece", sleep, 0.1) == "done"
        finally:
            machines.close()
            machine.kill()

    def test_a_broker_that_nobody_vouches_for_is_not_spoken_to(self, secured, monkeypatch):
        monkeypatch.setattr(module, "PATIENCE", 0.5)
        redis, _ = secured
        machines = Machines(engine(redis.address, KEY))
        with pytest.raises(Busy):
            machines.run("piece", whoami)
        machines.close()
