package plumbing

// Role is what a part does in a system. Kinds that do the same share a role;
// the rest of the program asks for roles and for what else a kind's row says,
// never for kinds, so that a new kind is a new row.
type Role string

// The roles.
const (
	RoleTank        Role = "tank"        // holds fresh water
	RolePickUp      Role = "pick-up"     // draws from a container
	RoleFill        Role = "fill"        // takes water by gravity
	RoleInlet       Role = "inlet"       // takes water under pressure
	RolePump        Role = "pump"        //
	RoleStrainer    Role = "strainer"    // its bowl comes off
	RoleFilter      Role = "filter"      // cleans water, and stands nothing else
	RoleCheck       Role = "check"       // passes one way
	RoleShutOff     Role = "shut-off"    // opens and shuts a way
	RoleDiverter    Role = "diverter"    // sends water one way or the other
	RoleSelector    Role = "selector"    // drives valves
	RoleJunction    Role = "junction"    // joins lines without loss
	RoleHeater      Role = "heater"      //
	RoleAccumulator Role = "accumulator" // evens out the pressure
	RoleDrain       Role = "drain"       // lets water out at a low point
	RoleFrost       Role = "frost"       // lets it out by itself in the cold
	RoleRelief      Role = "relief"      // lets pressure off, and air in
	RoleVent        Role = "vent"        // stands open
	RoleOutlet      Role = "outlet"      // gives water to somebody
	RoleMachine     Role = "machine"     // takes it by itself
	RoleCoupling    Role = "coupling"    // is parted in use
	RoleJoint       Role = "joint"       // is taken apart for work
	RoleFloat       Role = "float"       // shuts when the tank is full
	RoleTrap        Role = "trap"        //
	RoleWaste       Role = "waste"       // holds waste water
	RoleRinse       Role = "rinse"       // takes water to rinse a waste tank with
	RoleMixer       Role = "mixer"       // tempers hot water with cold
	RoleBarrel      Role = "barrel"      // takes water from a barrel with a pump of its own
	RoleHatch       Role = "hatch"       // opens a tank
	RoleHull        Role = "hull"        // leads through a hull
	RoleJumper      Role = "jumper"      // a hose that joins two ports
	RoleGas         Role = "gas"         // couples a heater's gas
	RoleControl     Role = "control"     // switches pumps and heaters
	RoleIsolator    Role = "isolator"    // cuts the battery off
	RoleProbe       Role = "probe"       // tells that water stands as high as it sits
	RoleSoftener    Role = "softener"    // treats water in a bed that a knob leaves out
)

// Role is what the part does.
func (p *Part) Role() Role { return p.Kind.Info().Role }
