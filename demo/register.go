package demo

import (
	"context"
	"fmt"

	"grandledger/core/table"
	"grandledger/standin"
)

// Register is the vessel register of the islands as an authority that answers over HTTP: the vessels of the vessel list, a few of them listed twice, as registers do.
func Register(ctx context.Context, trouble standin.Trouble) (*standin.Authority, error) {
	files, _ := Files()
	list, _, err := files[1].Read(ctx)
	if err != nil {
		return nil, err
	}
	const twice = 6
	n := list.Rows()
	columns := make([]*table.Column, 0, len(list.Columns())+1)
	ids := table.NewDictBuilder()
	at := make([]uint32, n+twice)
	for row := range at {
		at[row] = ids.Add(fmt.Sprintf("TI-%04d", 1000+7*row))
	}
	columns = append(columns, &table.Column{Name: "register_no", Codes: &table.Codes{At: at}, Dict: ids.Dict()})
	for _, c := range list.Columns() {
		codes := make([]uint32, n+twice)
		for row := range codes {
			codes[row] = c.Code(list.BaseRow(row % n)) // the last ones say again what the first ones say
		}
		columns = append(columns, &table.Column{Name: c.Name, Codes: &table.Codes{At: codes}, Dict: c.Dict})
	}
	t, err := table.New(columns, n+twice)
	if err != nil {
		return nil, err
	}
	return standin.New("Vessel register of the Tern Islands", "vessel", t, "register_no", "vessel", trouble)
}
