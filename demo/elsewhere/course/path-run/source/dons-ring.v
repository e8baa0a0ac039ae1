// A ring of eight, with a divider in front
module path(
  input clk,
  input turned_n,
  input hold_n,
  output reg [7:0] lamp,
  output stands
);

parameter FIFTH = 2400000;

reg [21:0] divider = 0;
reg [1:0] turned = 2'b00;
reg [1:0] held = 2'b00;
wire step = divider == FIFTH - 1;

initial lamp = 8'b00000001;

always @(posedge clk) begin
  turned <= {turned[0], ~turned_n};
  held <= {held[0], ~hold_n};
  if (!held[1]) begin
    if (step) begin
      divider <= 0;
      if (turned[1])
        lamp <= {lamp[0], lamp[7:1]};
      else
        lamp <= {lamp[6:0], lamp[7]};
    end else
      divider <= divider + 1;
  end
end

assign stands = held[1];

endmodule
