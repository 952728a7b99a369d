//go:build !windows

package main

func elevate(string) error { return errElevated }
