package plumbing

import (
	"fmt"
	"slices"
	"strings"
)

// seats checks what a part sits on, and what a jumper hose joins.
func (c *checker) seats(i int) {
	p := &c.m.Parts[i]
	path := partPath(i, p)
	if p.On != "" {
		switch {
		case p.Role() == RoleTank || len(p.Ports()) != 1:
			c.fault(path+"/on", "a %s does not sit on another part; join it by a line", p.Kind.Info().Name)
		default:
			c.port(path+"/on", p.On)
		}
	}
	switch {
	case p.Role() != RoleJumper && len(p.Ends) > 0:
		c.fault(path+"/ends", "only a jumper hose has ends; a %s is joined by lines", p.Kind.Info().Name)
	case len(p.Ends) > 0 && (len(p.Ends) != 2 || p.Ends[0] == p.Ends[1]):
		c.fault(path+"/ends",
			"a jumper hose has two ends: the ports that it joins, like \"inlet.mouth\" and \"pick-up.mouth\"")
	}
	for _, end := range p.Ends {
		c.port(path+"/ends", end)
	}
	names := map[string]bool{}
	for _, port := range p.Ports() {
		if names[port.Name] {
			c.fault(path+"/data/more_ports", "the port %q stands twice", port.Name)
		}
		names[port.Name] = true
	}
	for _, more := range strings.Fields(p.Data.MorePorts) {
		if !names[more] || PortKind(more) == more {
			c.fault(path+"/data/more_ports", "%q is no port of a tank with a number behind it, like \"fill2\"", more)
		}
	}
	if p.Role() == RoleWaste && (p.Data.Type == "grey" || p.Data.Type == "black") && p.Data.Capacity.IsZero() {
		c.fault(path+"/data/capacity", "a %s tank has a capacity", p.Data.Type)
	}
}

// port checks a reference to a port or an opening of a part.
func (c *checker) port(path, ref string) {
	id, port := PartOf(ref)
	p := c.parts[id]
	switch {
	case p == nil:
		c.fault(path, "there is no part %q", id)
	case !p.hasPort(port) && !slices.Contains(p.Kind.Info().Openings, port):
		c.fault(path, "a %s has no port %q; its ports are %s", p.Kind.Info().Name, port, portNames(p))
	}
}

// servedBy are the roles that a part may belong to, by its own.
var servedBy = map[Role][]Role{RoleProbe: {RoleTank, RoleWaste}, RoleGas: {RoleHeater}}

// controlled are the roles that can be switched.
var controlled = []Role{RolePump, RoleHeater, RoleBarrel}

// serves checks which parts a part belongs to, or switches.
func (c *checker) serves(i int) {
	p := &c.m.Parts[i]
	path := partPath(i, p)
	if roles := servedBy[p.Role()]; roles != nil {
		if of := c.parts[p.Data.Serves]; of == nil || !slices.Contains(roles, of.Role()) {
			c.fault(path+"/data/serves", "%q is not a %s of this model", p.Data.Serves, roles[0])
		}
	}
	if len(p.Controls) > 0 && p.Role() != RoleControl && p.Role() != RoleIsolator {
		c.fault(path+"/controls", "a %s switches nothing; describe the panel or the switch as a part of its own",
			p.Kind.Info().Name)
	}
	for k, x := range p.Controls {
		if of := c.parts[x.Part]; of == nil || !slices.Contains(controlled, of.Role()) {
			c.fault(fmt.Sprintf("%s/controls/%d", path, k), "%q is no pump or heater of this model", x.Part)
		}
	}
}

// consumables checks what is used up.
func (c *checker) consumables() {
	ids := map[string]bool{}
	for i, x := range c.m.Consumables {
		path := fmt.Sprintf("/consumables/%d (%q)", i, x.ID)
		if ids[x.ID] {
			c.fault(path, "the id stands twice")
		}
		ids[x.ID] = true
		if x.Part != "" && c.parts[x.Part] == nil {
			c.fault(path+"/part", "there is no part %q", x.Part)
		}
		switch {
		case x.What != "sanitizer" && x.Form != "":
			c.fault(path+"/form", "only a sanitizer has a form")
		case x.Form == "liquid" && (x.Strength <= 0 || x.Strength > 100):
			c.fault(path+"/strength", "a liquid sanitizer has a strength in per cent available chlorine, above 0")
		case (x.Form == "tablets" || x.Form == "powder") && x.Treats.IsZero():
			c.fault(path+"/treats", "write how much water one measure treats, as printed")
		case x.What == "sanitizer" && x.Form == "":
			c.fault(path+"/form", "write one of %s", quoted(SanitizerForms))
		}
	}
}
