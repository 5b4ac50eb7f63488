// Package library is what notices are begun and made with: starting points, icons, images, the site's colours.
package library

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"image"
	_ "image/gif"
	_ "image/jpeg"
	_ "image/png"
	"net/http"
	"strings"

	_ "golang.org/x/image/webp"

	"mastflag/core/bundle"
	"mastflag/core/icon"
	"mastflag/core/orderline"
	"mastflag/core/render"
	"mastflag/core/rights"
	"mastflag/core/schedule"
	"mastflag/core/starting"
	"mastflag/core/wording"
	"mastflag/internal/admin/base"
	"mastflag/internal/compiled"
	"mastflag/internal/problem"
	"mastflag/internal/store"
	"mastflag/internal/survey"
)

// Area is that part of the API.
type Area struct {
	*base.Base
	Survey *survey.Keeper
}

// Routes are its calls.
func (a *Area) Routes() []base.Route {
	return []base.Route{
		base.Get("/api/icons", "Icons for notices, by what they show.", a.icons),
		base.Get("/api/sites/:site/styles", "Colours and fonts found in the site's own styles.", a.styles).
			For(rights.Administrator),
		base.Get("/api/sites/:site/starting", "What a notice can be begun with.", a.starting),
		base.Get("/api/sites/:site/themes", "The site's themes, and others made of its colours.", a.themes),
		base.Get("/api/sites/:site/images", "The site's images.", a.images),
		base.Post("/api/sites/:site/images", "Keep an image.", a.addImage),
		base.Post("/api/sites/:site/images/remove", "Remove an image.", a.removeImage),
	}
}

// What an image may be.
const (
	maxImage  = 1 << 20    // bytes
	maxPixels = 16_000_000 // each takes 4 to 8 bytes while it is looked at
	maxSide   = 20_000     // px
	maxIcons  = 120
)

func (a *Area) icons(_ *base.Call, in IconAsk) (IconList, error) {
	return IconList{icon.Find(in.Find, maxIcons)}, nil
}

func (a *Area) starting(c *base.Call, _ base.Nothing) (StartingList, error) {
	site, err := a.Store.Site(c.Request.Context(), c.Site)
	if err != nil {
		return StartingList{}, err
	}
	zone, err := schedule.Zone(site.TimeZone)
	if err != nil {
		return StartingList{}, err
	}
	out := StartingList{Points: []StartingChoice{}, Purposes: starting.Purposes}
	now := a.Clock.Now()
	points, err := a.StartingPoints(c.Request.Context(), site)
	if err != nil {
		return StartingList{}, err
	}
	for _, p := range points {
		choice := StartingChoice{
			Kind:     p.Notice.Kind,
			Key:      p.Key,
			Name:     p.Name,
			For:      p.For,
			Own:      p.Own,
			Shared:   p.Shared,
			From:     p.From,
			Purpose:  p.Purpose,
			InSeason: p.InSeason,
			Line:     orderline.Of(p.Notice, site.Site, now).String(),
		}
		if tag := wording.Choose(p.Notice.Wordings(), site.Language, site.Language); tag != "" {
			p.Notice.ID = "starting-point"
			bar, err := render.Notice(site.Prepared(p.Notice, a.Address), tag, a.Address+compiled.ImagesPath(c.Site), zone)
			if err != nil {
				return out, err
			}
			choice.HTML, choice.CSS = render.Still(bar, p.Notice, tag, now, zone), bar.CSS
		}
		out.Points = append(out.Points, choice)
	}
	return out, nil
}

func (a *Area) themes(c *base.Call, _ base.Nothing) (ThemeList, error) {
	ctx := c.Request.Context()
	out := ThemeList{Themes: []ThemeCard{}, Proposed: []ThemeCard{}}
	site, err := a.Store.Site(ctx, c.Site)
	if err != nil {
		return out, err
	}
	rows, err := a.Store.Notices(ctx, c.Site)
	if err != nil {
		return out, err
	}
	for _, t := range site.Themes {
		card := themeCard(t)
		for _, row := range rows {
			if n := row.Working(); n.GetLook().Theme == t.Name || row.Out().GetLook().Theme == t.Name {
				card.UsedBy = append(card.UsedBy, n.GetTitle())
			}
		}
		out.Themes = append(out.Themes, card)
	}
	for _, t := range site.ProposedThemes() {
		out.Proposed = append(out.Proposed, themeCard(t))
	}
	return out, nil
}

func themeCard(t bundle.Theme) ThemeCard {
	n := bundle.Notice{Kind: bundle.KindBar, Look: &t.Look}
	card := ThemeCard{Theme: t, UsedBy: []string{}}
	card.Background, card.Text = render.Colours(n)
	card.Button, card.ButtonText = render.ButtonColours(n)
	return card
}

func (a *Area) styles(c *base.Call, _ base.Nothing) (Styles, error) {
	site, err := a.Store.Site(c.Request.Context(), c.Site)
	if err != nil {
		return Styles{}, err
	}
	if len(site.Origins) == 0 {
		return Styles{}, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "No address",
			Detail: "Give the site its address first.",
		}
	}
	colours, fonts, err := a.Survey.Styles(c.Request.Context(), site.Origins[0], site.Homes()[0])
	if err != nil {
		return Styles{}, problem.Problem{
			Status: http.StatusBadGateway,
			Title:  "The site could not be read",
			Detail: err.Error() + ". Colours can be added by hand.",
		}
	}
	return Styles{colours, fonts}, nil
}

func (a *Area) images(c *base.Call, _ base.Nothing) (ImageList, error) {
	ctx := c.Request.Context()
	out := ImageList{Images: []ImageDetail{}}
	list, err := a.Store.Images(ctx, c.Site)
	if err != nil {
		return out, err
	}
	users, err := a.Using(ctx, c.Site)
	if err != nil {
		return out, err
	}
	for _, i := range list {
		d := ImageDetail{
			Image:   i.Image,
			Name:    i.Name,
			Size:    i.Size,
			Address: compiled.ImagesPath(c.Site) + i.File,
			AddedAt: i.AddedAt,
			AddedBy: i.AddedBy,
		}
		d.UsedBy = users(func(n bundle.Notice) bool { return n.Shows(i.File) })
		out.Images = append(out.Images, d)
	}
	return out, nil
}

// decoding is where images are looked at whole, one after the other.
var decoding = make(chan struct{}, 1)

// whole returns why an image cannot be shown to its end, nil if it can.
func whole(ctx context.Context, data []byte) error {
	select {
	case decoding <- struct{}{}:
		defer func() { <-decoding }()
	case <-ctx.Done():
		return ctx.Err()
	}
	_, _, err := image.Decode(bytes.NewReader(data))
	return err
}

func (a *Area) addImage(c *base.Call, in NewImage) (ImageList, error) {
	refuse := func(detail string) (ImageList, error) {
		return ImageList{}, problem.Problem{Status: http.StatusUnprocessableEntity, Title: "Not kept", Detail: detail}
	}
	if len(in.Data) == 0 {
		return refuse("The file is empty.")
	}
	if len(in.Data) > maxImage {
		return refuse(fmt.Sprintf(
			"“%s” has %.1f MB; an image may have 1 MB, so that pages stay fast. Make it smaller, or save it as webp.", in.Name,
			float64(len(in.Data))/(1<<20),
		))
	}
	config, format, err := image.DecodeConfig(bytes.NewReader(in.Data))
	if err != nil {
		kind, _, _ := strings.Cut(http.DetectContentType(in.Data), ";")
		return refuse(fmt.Sprintf(
			"“%s” is not an image that can be shown: its content looks like %s. Give a jpeg, png, webp or gif.", in.Name, kind,
		))
	}
	if config.Width < 1 || config.Height < 1 || config.Width > maxSide || config.Height > maxSide ||
		config.Width*config.Height > maxPixels {
		return refuse(fmt.Sprintf(
			"“%s” is %d by %d px, which is too large for a page. Make it smaller.", in.Name, config.Width, config.Height,
		))
	}
	if err := whole(c.Request.Context(), in.Data); err != nil {
		return refuse(fmt.Sprintf("“%s” is damaged or cut off: %v. Give it anew from where it came.", in.Name, err))
	}
	sum := sha256.Sum256(in.Data)
	end := map[string]string{"jpeg": "jpg", "png": "png", "webp": "webp", "gif": "gif"}[format]
	i := store.Image{
		Image:   bundle.Image{File: hex.EncodeToString(sum[:8]) + "." + end, Width: config.Width, Height: config.Height},
		Name:    base.Truncated(in.Name, 200),
		AddedAt: a.Clock.Now(),
		AddedBy: c.Person.Name,
	}
	if err := a.Store.AddImage(c.Request.Context(), c.Site, i, in.Data); err != nil {
		return ImageList{}, err
	}
	list, err := a.images(c, base.Nothing{})
	for k, d := range list.Images { // the one just given first, new or not
		if d.File == i.File {
			copy(list.Images[1:k+1], list.Images[:k])
			list.Images[0] = d
		}
	}
	return list, err
}

func (a *Area) removeImage(c *base.Call, in ImageName) (ImageList, error) {
	users, err := a.Using(c.Request.Context(), c.Site)
	if err != nil {
		return ImageList{}, err
	}
	if by := users(func(n bundle.Notice) bool { return n.Shows(in.File) }); len(by) > 0 {
		return ImageList{}, problem.Problem{
			Status: http.StatusConflict,
			Title:  "In use",
			Detail: "“" + strings.Join(by, "”, “") + "” shows this image. Take it out there first.",
		}
	}
	if err := a.Store.DropImage(c.Request.Context(), c.Site, in.File); err != nil {
		return ImageList{}, err
	}
	return a.images(c, base.Nothing{})
}
