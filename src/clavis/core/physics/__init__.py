"""Equations: bike, road, friction, forces, heat."""
