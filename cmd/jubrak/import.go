package main

import (
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"jubrak/app/service"
	"jubrak/app/store"
)

func importCommand() *cobra.Command {
	var data string
	c := &cobra.Command{
		Use: "import FILE...", Short: "Open project archives as new projects of the data folder",
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) == 0 {
				return fmt.Errorf("%w: give at least one project archive", errUsage)
			}
			return nil
		},
		RunE: func(c *cobra.Command, args []string) error {
			work, closeAll, err := openData(data)
			if err != nil {
				return err
			}
			defer closeAll()
			var failed error
			for _, path := range args {
				archive, err := os.ReadFile(path)
				if err != nil {
					failed = errors.Join(failed, err)
					continue
				}
				id, notes, err := work.OpenArchive(c.Context(), archive, progressBar())
				if err != nil {
					failed = errors.Join(failed, fmt.Errorf("%s: %w", path, err))
					continue
				}
				fmt.Println(id)
				for _, n := range notes {
					fmt.Fprintln(os.Stderr, n)
				}
			}
			return failed
		},
	}
	c.Flags().StringVar(&data, "data", dataDir(), "folder for projects")
	return c
}

// openData opens a data folder for writing; nobody else may write to it until
// closeAll is called.
func openData(dir string) (work *service.Service, closeAll func(), err error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, nil, fmt.Errorf("the data folder cannot be made: %w", err)
	}
	unlock, err := store.Lock(dir)
	if errors.Is(err, store.ErrInUse) {
		return nil, nil, fmt.Errorf("another Jubrak is running on the data folder %s. Use that one, close it, or choose another folder with --data", dir)
	}
	if err != nil {
		return nil, nil, err
	}
	st, err := store.Open(dir)
	if err != nil {
		unlock()
		return nil, nil, err
	}
	work = service.New(st)
	return work, func() {
		work.Close()
		_ = st.Close()
		unlock()
	}, nil
}
