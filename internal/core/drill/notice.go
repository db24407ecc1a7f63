package drill

import (
	"math"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/virtual"
)

// noticed is how an event that the clean engine does not meet at step k comes to somebody's
// notice. What is no act, and nothing that anybody would see, feel or hear, is silent.
func (b *bench) noticed(k int, e virtual.Event) notice {
	lock := func(id engine.LockID) message.Arg { return b.named(engine.KindLock, string(id)) }
	part := func(id engine.PartID) message.Arg { return b.named(engine.KindPart, string(id)) }
	bolt := func(id engine.FastenerID) message.Arg { return b.named(engine.KindFastener, string(id)) }
	loop := func(id engine.LoopID) message.Arg { return b.named(engine.KindLoop, string(id)) }
	tens := func(id engine.TensionerID) message.Arg { return b.named(engine.KindTensioner, string(id)) }
	see := func(t message.Text) notice { return notice{sight, t, true} }
	cannot := func(t message.Text) notice { return notice{stop, t, true} }
	breaks := func(t message.Text) notice { return notice{force, t, true} }
	switch v := e.(type) {
	// What a look finds.
	case virtual.MarkAway:
		if v.NeverTogether {
			return see(message.F("the %s never stands with the others", b.named(engine.KindMark, string(v.Mark))))
		}
		return see(message.F("the %s stands %s° %s", b.named(engine.KindMark, string(v.Mark)), degrees(math.Abs(float64(v.Degrees))), earlyOrLate(float64(v.Degrees))))
	case virtual.WouldNotGoIn:
		return b.lockOff(k, v)
	case virtual.FoundOtherwise:
		return see(message.F("the %s is found otherwise", message.Named(v.Thing.Path(), b.x.Name(v.Thing))))
	case virtual.ReadingOff:
		return see(message.F("the %s reads otherwise, %s° of its shaft away", b.named(engine.KindReading, string(v.Reading)), degrees(math.Abs(float64(v.Degrees)))))
	case virtual.LoopMarkMoved:
		return see(message.F("the %s is not where it belongs", b.named(engine.KindMark, string(v.Mark))))
	case virtual.PaintMissing, virtual.PaintMoved:
		return see(message.F("the paint marks do not stand"))

	// What cannot be done.
	case virtual.PartGone:
		if v.Fastener != "" {
			return cannot(message.F("the %s has nothing to hold: the %s is off", bolt(v.Fastener), part(v.Part)))
		}
		return cannot(message.F("the %s is off", part(v.Part)))
	case virtual.InTheWay:
		return cannot(message.F("the %s is in the way", part(v.Part)))
	case virtual.UnderLoop:
		return cannot(message.F("the %s does not come off under its loop", part(v.Part)))
	case virtual.NotIn:
		return cannot(message.F("the %s is not there to be taken out", lock(v.Lock)))
	case virtual.AlreadyIn:
		return cannot(message.F("the %s is in already", lock(v.Lock)))
	case virtual.NotOff:
		return cannot(message.F("what goes on is on already"))
	case virtual.AlreadyOff:
		return cannot(message.F("what comes off is off already"))
	case virtual.HoleShut:
		return cannot(message.F("the %s does not go over the %s", part(v.Part), lock(v.Lock)))
	case virtual.NotPinned:
		return cannot(message.F("there is no pin in the %s to pull", tens(v.Tensioner)))
	case virtual.PinStillIn:
		return cannot(message.F("the pin of the %s is still in: it does not move", tens(v.Tensioner)))
	case virtual.NothingToMeet:
		return cannot(message.F("there is no %s to come up to", lock(v.Lock)))
	case virtual.WheelMissing:
		return cannot(message.F("the %s is missing on the way of the %s", part(v.Part), loop(v.Loop)))
	case virtual.TensionerClamped:
		return cannot(message.F("the %s holds the %s: it does not move", bolt(v.Fastener), tens(v.Tensioner)))
	case virtual.BoltTight:
		return cannot(message.F("the %s is tight: the %s does not come off", bolt(v.Fastener), part(v.Part)))
	case virtual.Covered:
		return cannot(message.F("the %s is before it", part(v.Part)))
	case virtual.AccessShut:
		if v.Part == "" {
			return notice{how: silent}
		}
		return cannot(message.F("the %s bars the way to the %s", part(v.Part), lock(v.Lock)))
	case virtual.MarkHidden:
		return cannot(message.F("the %s hides the %s", part(v.Part), b.named(engine.KindMark, string(v.Mark))))
	case virtual.PointerOff:
		return cannot(message.F("the pointer of the %s is off with the %s", b.named(engine.KindMark, string(v.Mark)), part(v.Part)))
	case virtual.ReadingHidden:
		return cannot(message.F("the %s is before it", part(v.Part)))
	case virtual.StillClamped:
		return cannot(message.F("the %s still holds it", bolt(v.Fastener)))
	case virtual.TriedWhileIn:
		return cannot(message.F("what is tried is in already"))
	case virtual.SlackAlready:
		return cannot(message.F("the %s is slack already", bolt(v.Fastener)))
	case virtual.LoopTight:
		return cannot(message.F("the %s is tight: it does not go over its wheels", loop(v.Loop)))
	case virtual.ReleasedWithoutLoop:
		return cannot(message.F("the %s is let go and the %s is not on", tens(v.Tensioner), loop(v.Loop)))
	case virtual.TurnedByNothing:
		return cannot(message.F("the %s turns, and the shaft does not", bolt(v.Fastener)))
	case virtual.RenewedInPlace:
		return cannot(message.F("the %s is still on", part(v.Part)))

	// What breaks.
	case virtual.TurnedAgainst:
		return breaks(message.F("the engine is turned against the %s", lock(v.Lock)))
	case virtual.Contact:
		return breaks(message.F("valves meet pistons, %s° on", degrees(float64(v.Degrees))))
	case virtual.CamContact:
		return breaks(message.F("valves meet pistons as the %s is turned", b.named(engine.KindShaft, string(v.Shaft))))
	case virtual.SprungOut:
		return breaks(message.F("the %s springs out", tens(v.Tensioner)))
	case virtual.Spilled:
		return breaks(message.F("it runs out as the %s comes off", part(v.Part)))
	case virtual.StartedWithLock:
		return breaks(message.F("the engine is started against the %s", lock(v.Lock)))

	// What shows at the first start.
	case virtual.StartedOpen:
		switch p := b.x.Part(v.Part); {
		case p != nil && p.Kind == engine.Plug:
			return see(message.F("oil or coolant comes out where the %s belongs", part(v.Part)))
		case p != nil:
			return notice{sight, message.F("the %s lies beside the engine", part(v.Part)), false}
		case v.Tensioner != "":
			return notice{sight, message.F("the loop of the %s is slack: it is heard", tens(v.Tensioner)), false}
		case v.Fluid != "":
			return notice{sight, message.F("it runs without its %s", b.named(engine.KindFluid, string(v.Fluid))), false}
		}
		return notice{how: nothing} // the bolt is among what is left at the end
	case virtual.FilledOpen:
		return see(message.F("what is filled in runs out where the %s belongs", part(v.Part)))

	// What only tells how it went.
	case virtual.WentIn, virtual.CameOut, virtual.MetStop, virtual.MarkStood, virtual.Gauged, virtual.Backwards, virtual.AfterRun, virtual.RenewedAgain, virtual.NotDrained, virtual.NotComeUp, virtual.ElsewhereMark, virtual.NoProof, virtual.UnknownThing, virtual.TurnedLoose, virtual.SlackTurned, virtual.LooseWheelTurned:
		return notice{how: nothing}
	}
	if v, ok := e.(virtual.TightAlready); ok && !b.x.Fastener(v.Fastener).Stretches() {
		return notice{how: nothing} // the wrench clicks at once
	}
	if virtual.Act(e) {
		return notice{how: nothing}
	}
	return notice{how: silent}
}

// lockOff is a lock that does not go in: by more than twice its play it never does, by less it
// may go in at the other end of the play that the shaft was locked with.
func (b *bench) lockOff(k int, v virtual.WouldNotGoIn) notice {
	l := b.x.Lock(v.Lock)
	n := notice{stop, message.F("the %s stops %s° short", b.named(engine.KindLock, string(v.Lock)), degrees(math.Abs(float64(v.Degrees)))), true}
	if v.WrongStroke {
		n.says = message.F("the %s does not go in: it is the other stroke", b.named(engine.KindLock, string(v.Lock)))
	}
	if l == nil {
		return n
	}
	most := 0.0
	for _, id := range l.Holds {
		most = math.Max(most, math.Abs(b.off(k, id, float64(l.Period()))))
	}
	n.sure = most > 2*float64(l.Freedom())-hair
	return n
}

// harm is what somebody does wrong without anything to see, and how bad that is.
func (b *bench) harm(e virtual.Event) (int, message.Text) {
	bolt := func(id engine.FastenerID) message.Arg { return b.named(engine.KindFastener, string(id)) }
	part := func(id engine.PartID) message.Arg { return b.named(engine.KindPart, string(id)) }
	switch v := e.(type) {
	case virtual.OldPart:
		switch {
		case v.Fastener != "":
			return 7, message.F("the %s goes in a second time", bolt(v.Fastener))
		case v.Part != "":
			return 6, message.F("the %s goes back old", part(v.Part))
		}
		return 7, message.F("the %s goes back old", b.named(engine.KindLoop, string(v.Loop)))
	case virtual.OldSeal:
		return 5, message.F("the %s goes back on its old seal: it leaks", part(v.Part))
	case virtual.SealantDry:
		return 5, message.F("the sealant of the %s has skinned over: it leaks", part(v.Part))
	case virtual.Unheld:
		return 7, message.F("the torque of the %s turns its shaft", bolt(v.Fastener))
	case virtual.PinCarriedTorque:
		return 7, message.F("the torque of the %s goes through the %s", bolt(v.Fastener), b.named(engine.KindLock, string(v.Lock)))
	case virtual.WrongHold:
		return 7, message.F("the torque of the %s turns its shaft", bolt(v.Fastener))
	case virtual.NotFixed, virtual.ClampedEarly, virtual.Unplaced, virtual.BeyondLimit:
		return 8, message.F("a wheel is clamped where it happens to stand")
	case virtual.LoopOnUnlocked, virtual.LoopOffUnlocked, virtual.CamThrown:
		return 8, message.F("a cam is thrown by its springs")
	case virtual.StretchedTwice:
		return 8, message.F("the %s is stretched a second time", bolt(v.Fastener))
	case virtual.TightAlready:
		return 8, message.F("the %s was never slackened, and goes through its angle again", bolt(v.Fastener))
	case virtual.NotHeldBack:
		return 6, message.F("the %s springs out as its loop comes off", b.named(engine.KindTensioner, string(v.Tensioner)))
	case virtual.PhaserAway:
		return 8, message.F("the %s is timed away from its home stop", b.named(engine.KindWheel, string(v.Wheel)))
	case virtual.StopSkipped, virtual.TensionOrder, virtual.ReleasedUnchecked, virtual.LetGoLoose, virtual.SlackElsewhere:
		return 6, message.F("the tension is not what the sheet asks for")
	case virtual.BoltOrder, virtual.ScrewOrder, virtual.ScrewsLoose:
		return 5, message.F("bolts are taken up out of their order")
	}
	return 4, message.F("something is done that the sheet forbids")
}

// judged is what a bolt does under other stages than its own, and how bad that is.
func judged(f *engine.Fastener, spec []engine.Stage) (int, string) {
	b, known := f.Bolt()
	if b == nil || !known {
		return 7, ""
	}
	for k := range spec {
		low, high, ok := bolt.Ends(spec[k].Torque)
		if !ok {
			continue
		}
		switch b.Judge(low, high, k < len(spec)-1) {
		case bolt.BreaksIt:
			return 9, "it breaks"
		case bolt.YieldsIt:
			return 8, "it yields"
		case bolt.SlackIt:
			return 8, "it hardly holds"
		}
	}
	return 6, ""
}
