// Command jubrak is the whole program: the application and the work of its
// core on the command line. Results go to standard output, messages to
// standard error. Exit status 0 is done, 1 the work failed, 2 wrong use.
package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"path/filepath"
	"syscall"

	"github.com/spf13/cobra"

	"jubrak/app/api"
)

// errUsage marks wrong use, for the exit status.
var errUsage = errors.New("wrong use")

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	os.Exit(run(ctx, os.Args[1:]))
}

func run(ctx context.Context, args []string) int {
	root := command()
	root.SetArgs(args)
	err := root.ExecuteContext(ctx)
	switch {
	case err == nil:
		return 0
	case errors.Is(err, errUsage):
		fmt.Fprintln(os.Stderr, err.Error()+". Try jubrak --help.")
		return 2
	}
	fmt.Fprintln(os.Stderr, "jubrak: "+err.Error())
	return 1
}

func command() *cobra.Command {
	root := &cobra.Command{
		Use: "jubrak", Short: "Drums that feel and sound like the reference beside them",
		Version: api.Version, SilenceErrors: true, SilenceUsage: true,
		RunE: func(c *cobra.Command, args []string) error {
			if len(args) > 0 {
				return fmt.Errorf("%w: there is no command %q", errUsage, args[0])
			}
			return c.Help()
		},
		Args: cobra.ArbitraryArgs,
	}
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return fmt.Errorf("%w: %w", errUsage, err) })
	root.AddCommand(serveCommand(), demoCommand(), analyzeCommand(), drumsCommand(), fitCommand(), measureCommand(), soundCommand(), renderCommand(), compareCommand(), rebuildCommand(), importCommand())
	return root
}

// exactly asks for n arguments and names them when they are missing.
func exactly(n int, what string) cobra.PositionalArgs {
	return func(_ *cobra.Command, args []string) error {
		if len(args) != n {
			return fmt.Errorf("%w: give %s", errUsage, what)
		}
		return nil
	}
}

// dataDir is where projects live unless --data says otherwise.
func dataDir() string {
	base, err := os.UserConfigDir()
	if err != nil {
		return "jubrak-data"
	}
	return filepath.Join(base, "jubrak")
}

func printJSON(v any) error {
	e := json.NewEncoder(os.Stdout)
	e.SetIndent("", " ")
	return e.Encode(v)
}
